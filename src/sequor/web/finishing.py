"""The frame as it will be in the file: fills shown on the screen, the candidates, and the check of corners and edges."""

import threading
from collections import Counter, OrderedDict
from collections.abc import Callable
from dataclasses import dataclass
from typing import Literal, TypeVar

import numpy as np
from sqlalchemy.orm import Session

from sequor.core.errors import UnusableInput
from sequor.core.fill.apply import render_filled
from sequor.core.fill.plan import CORNERS, PLAN_EDGE_PX, QUICK_EDGE_PX, FillPlan, plan_fill, plan_size, regions_of, small_hole
from sequor.core.fill.risk import SIDES, crossings_of
from sequor.core.recipe import Corners, PhotoFacts, Recipe
from sequor.core.render import Cancelled, Rendered, render
from sequor.core.resample import Pixels
from sequor.core.solution import Solution
from sequor.core.solve import solve
from sequor.pictures.decode import Picture as DecodedPicture
from sequor.pictures.encode import as_image
from sequor.pictures.proxy import encode_preview, for_screen
from sequor.store.ledger import recipe_of
from sequor.store.library import NotFound
from sequor.store.models import LedgerEntry
from sequor.web.schemas import CornerCheck, FillRegion, FillState

Place = Literal["top-left", "top-right", "bottom-right", "bottom-left", "left", "top", "right", "bottom"]
_CORNER_PX, _STRIP_PX = 112, 24
_SHOWN, _PLANS = 24, 3
_RISKY = 3

Kept = TypeVar("Kept")


@dataclass(frozen=True)
class Subject:
    """One entry of a picture: its recipe, its solution and the way to its pixels."""

    key: tuple[str, int]
    recipe: Recipe
    solution: Solution
    original: Callable[[], DecodedPicture]


def subject(
    session: Session, entry: LedgerEntry, sha256: str, original: Callable[[], DecodedPicture], photo: PhotoFacts
) -> Subject:
    """What an entry stands for."""
    recipe = recipe_of(entry)
    return Subject((sha256, entry.id), recipe, solve(photo, recipe), original)


class FinishingDesk:
    """Keeps what was made last, so that looking again costs nothing. One thing is made at a time: it takes all cores anyway."""

    def __init__(self) -> None:
        self._lock = threading.Lock()
        self._shown: OrderedDict[tuple[object, ...], bytes] = OrderedDict()
        self._plans: OrderedDict[tuple[object, ...], FillPlan] = OrderedDict()
        self._whole: tuple[tuple[str, int], Rendered] | None = None
        self._wanted: dict[str, int] = {}

    def shown(self, what: Subject, seeds: tuple[int, int, int, int] | None, edge: int, quick: bool) -> bytes:
        """The filled frame as a JPEG for the screen, its longer side ``edge`` pixels, with other seeds than the recipe's if wanted.

        Raises
        ------
        UnusableInput
            When another entry of the picture was asked for meanwhile: nobody waits for this one any more.
        """
        picture_id, entry_id = what.key
        self._wanted[picture_id] = entry_id
        recipe = what.recipe
        if seeds:
            recipe = Recipe.model_validate(recipe.model_dump() | {"corners": recipe.corners.model_dump() | {"seeds": seeds}})
        key = (*what.key, recipe.corners.seeds, edge, quick)
        with self._lock:
            if key not in self._shown:
                try:
                    made, picture = self._made_for_screen(what, recipe, edge, quick, lambda: self._wanted[picture_id] != entry_id)
                except Cancelled:
                    raise UnusableInput(
                        "The picture was changed while its corners were being filled; this fill was given up."
                    ) from None
                _remember(self._shown, key, encode_preview(for_screen(as_image(made.pixels), picture.profile)), _SHOWN)
            self._shown.move_to_end(key)
            return self._shown[key]

    def _made_for_screen(
        self, what: Subject, recipe: Recipe, edge: int, quick: bool, cancelled: Callable[[], bool]
    ) -> tuple[Rendered, DecodedPicture]:
        if cancelled():
            raise Cancelled
        picture = what.original()
        plan = self._plan(what, recipe, QUICK_EDGE_PX if quick else PLAN_EDGE_PX, cancelled)
        size = plan_size(what.solution, edge)
        return render_filled(picture.pixels, what.solution, recipe, cancelled=cancelled, size=size, plan=plan), picture

    def state(self, what: Subject) -> FillState:
        """Where is filled, and where straight edges cross the seam."""
        if what.solution.cost.fill_fraction <= 0:
            return FillState(regions=[], notes=[], crossings=[])
        with self._lock:
            picture = what.original()
            size = plan_size(what.solution)
            hole = small_hole(what.solution, (picture.pixels.shape[1], picture.pixels.shape[0]), size)
            small = for_screen(as_image(render(picture.pixels, what.solution, size=size).pixels), picture.profile)
        colours = np.repeat(small[:, :, :1], 3, axis=2) if small.shape[2] < 3 else small[:, :, :3]
        found = crossings_of(colours.astype(np.float32), hole)
        counted = Counter(c.side for c in found)
        risky = [side for side in SIDES if counted[side] >= _RISKY]
        regions = [
            FillRegion(corner=r.corner, name=CORNERS[r.corner], share=r.pixels / hole.size)
            for r in regions_of(hole)
            if r.pixels > 1
        ]
        return FillState(
            regions=regions,
            notes=[_risk_words(side, counted[side]) for side in risky]
            if what.recipe.corners.method in ("patches", "mirror")
            else [],
            crossings=[(c.x / size[0], c.y / size[1]) for c in found if c.side in risky],
        )

    def check(self, what: Subject) -> CornerCheck:
        """The frame counted at full size."""
        made = self._full(what)
        height, width = made.pixels.shape[:2]
        filled = round(made.filled_share * width * height)
        transparent = what.recipe.corners.method == "transparent"
        said = f"{made.empty_pixels} of {width * height:,} pixels are empty".replace(",", " ")
        if filled and not transparent:
            said += f"; {filled:,} were filled".replace(",", " ")
        return CornerCheck(
            width=width,
            height=height,
            empty_pixels=made.empty_pixels,
            filled_pixels=0 if transparent else filled,
            words=f"{said}.",
        )

    def piece(self, what: Subject, place: Place) -> bytes:
        """A corner, or a strip along an edge, of the full-size frame: real pixels as PNG."""
        pixels = self._full(what).pixels
        height, width = pixels.shape[:2]
        up, left = slice(0, min(_CORNER_PX, height)), slice(0, min(_CORNER_PX, width))
        down, right = slice(max(0, height - _CORNER_PX), height), slice(max(0, width - _CORNER_PX), width)
        strip = min(_STRIP_PX, height, width)
        pieces: dict[Place, Pixels] = {
            "top-left": pixels[up, left],
            "top-right": pixels[up, right],
            "bottom-right": pixels[down, right],
            "bottom-left": pixels[down, left],
            "top": pixels[:strip],
            "bottom": pixels[height - strip :],
            "left": pixels[:, :strip],
            "right": pixels[:, width - strip :],
        }
        shown = for_screen(as_image(pieces[place]), what.original().profile)
        return bytes(as_image(shown).pngsave_buffer(compression=1, keep="none"))

    def _full(self, what: Subject) -> Rendered:
        with self._lock:
            if self._whole is None or self._whole[0] != what.key:
                self._whole = None  # the old one is let go before the new one comes
                pixels = what.original().pixels
                plan = self._plan(what, what.recipe, PLAN_EDGE_PX) if what.solution.cost.fill_fraction > 0 else None
                self._whole = what.key, render_filled(pixels, what.solution, what.recipe, plan=plan)
            return self._whole[1]

    def _plan(self, what: Subject, recipe: Recipe, edge: int, cancelled: Callable[[], bool] = lambda: False) -> FillPlan | None:
        if recipe.corners.method != "patches" or what.solution.cost.fill_fraction <= 0:
            return None
        key = (*what.key, recipe.corners.seeds, edge)
        if key not in self._plans:
            made = plan_fill(what.original().pixels, what.solution, recipe, edge, cancelled=cancelled)
            _remember(self._plans, key, made, _PLANS)
        self._plans.move_to_end(key)
        return self._plans[key]


def seeds_of(text: str) -> tuple[int, int, int, int] | None:
    """Four seeds written ``1,2,1,1``; None for an empty text."""
    if not text:
        return None
    try:
        first, second, third, fourth = Corners.model_validate({"seeds": text.split(",")}).seeds
    except ValueError:
        raise UnusableInput(
            "Seeds are four whole numbers from 1 to 1000 such as 1,2,1,1, one for each corner clockwise from the top left."
        ) from None
    return first, second, third, fourth


def place_of(text: str) -> Place:
    """A place of the check by its name."""
    known: dict[str, Place] = {
        "top-left": "top-left",
        "top-right": "top-right",
        "bottom-right": "bottom-right",
        "bottom-left": "bottom-left",
        "left": "left",
        "top": "top",
        "right": "right",
        "bottom": "bottom",
    }
    if text not in known:
        raise NotFound("There is no such corner or edge.")
    return known[text]


def _risk_words(side: str, count: int) -> str:
    where = f"at the {side}"
    return f"{count} straight edges cross the seam {where}: filling is risky there. Crop {where} instead, by moving that edge of the frame inwards."


def _remember(store: "OrderedDict[tuple[object, ...], Kept]", key: tuple[object, ...], value: Kept, most: int) -> None:
    store[key] = value
    while len(store) > most:
        store.popitem(last=False)
