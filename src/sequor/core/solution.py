"""The solution: the whole answer to a photo and a recipe, as numbers, enums and note codes.

Nothing here is a sentence; `report` says it in words.
"""

from sequor.core.notes import Note
from sequor.core.solved import Solved


class Solution(Solved):
    """The whole answer to a photo and a recipe: the numbers, and what is to be said of them."""

    notes: tuple[Note, ...]
