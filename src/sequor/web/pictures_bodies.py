"""Bodies that show a picture: on the bench, in its ledger, among versions."""

from sequor.core.recipe import Recipe
from sequor.core.report.report import Report
from sequor.core.solution import Solution
from sequor.making.exports import ExportOptions
from sequor.web.common_bodies import Body, RightWord


class PictureFile(Body):
    """The original file of a picture; ``taken_damaged`` says what was wrong with it when it came in
    and was wanted all the same, ``remarks`` what should be known of how it was read,
    ``opened_from`` the path of one that stays where it lies; ``inks`` that it is of those (CMYK).
    """

    name: str
    format: str
    width: int
    height: int
    bits: int
    profile: str | None
    focal35_mm: float | None
    byte_size: int
    taken_damaged: str
    remarks: list[str]
    opened_from: str | None
    inks: bool


class Addresses(Body):
    """Where images of a picture are: addresses that name content, so that they never change.

    ``original`` is followed by ``/proxy.jpg``, ``/tiles/COLUMN/ROW.png`` or ``/undistorted.jpg``,
    ``corrected`` by ``/view.jpg``, ``/filled.jpg`` or ``/pieces/PLACE.png``.
    """

    original: str
    corrected: str


class Shown(Body):
    """What a screen needs to show a recipe of a picture."""

    file: PictureFile
    proxy_scale: float
    addresses: Addresses
    solution: Solution


class PictureState(Body):
    """A picture on the bench: the recipe that holds, its solution and what is said of it.

    ``said`` is what came of the edits that led here, where there is anything to say, and ``beside``
    how they were kept beside what somebody else did meanwhile; ``unreadable``
    why the newest entry of its ledger is not the one that holds. ``may`` is what who asks may do
    with it.
    """

    id: int
    version: int
    version_name: str
    set_id: int
    set_name: str
    may: list[RightWord]
    file: PictureFile
    proxy_scale: float
    addresses: Addresses
    entry_id: int
    what: str
    said: str
    beside: str
    unreadable: str
    recipe: Recipe
    solution: Solution
    report: Report
    can_undo: bool
    can_redo: bool
    file_options: ExportOptions | None
