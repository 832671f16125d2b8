"""Every demo picture, set right by its true edges, in every ratio.

No empty pixel at full resolution, and the subject kept.
"""

import numpy as np
import pytest
from shapely.geometry import Polygon, box

from sequor.core.recipe import Box, FrameChoice, Reading, Recipe
from sequor.core.render.rendering import coverage
from sequor.core.solve import solve
from sequor.pictures.inspect import inspect
from tests.core.test_placing import RATIOS
from tests.demo.test_truth import DEMO, TRUTH


def measured(name: str) -> Recipe:
    edges = TRUTH[name]["edges"]
    return Recipe(
        readings=tuple(
            Reading(id=str(i), kind=edge["kind"], points=tuple(map(tuple, edge["points"])))
            for i, edge in enumerate(edges)
        )
    )


@pytest.mark.parametrize("name", sorted(TRUTH))
def test_no_empty_pixel_in_any_ratio(name: str) -> None:
    photo = inspect(DEMO / "pictures" / name).photo
    recipe = measured(name)
    for ratio in RATIOS:
        solution = solve(photo, recipe.model_copy(update={"frame": FrameChoice(ratio=ratio)}))
        assert int((~coverage(solution, (photo.width, photo.height))).sum()) == 0, ratio
        frame = solution.frame
        inside = box(frame.x, frame.y, frame.x + frame.width, frame.y + frame.height)
        assert (
            Polygon(solution.outline)
            .buffer(1e-4 if solution.warp.distortion.straight else 1.0)
            .contains(inside)
        ), ratio


def test_the_subject_near_the_edge_is_kept_in_every_ratio() -> None:
    name = "swing-bridge-keeper.jpg"
    photo = inspect(DEMO / "pictures" / name).photo
    (x0, y0), (x1, y1) = TRUTH[name]["subject"]
    keep = Box(left=min(x0, x1), top=min(y0, y1), right=max(x0, x1), bottom=max(y0, y1))
    corners = np.array(
        [[x, y, 1] for x in (keep.left, keep.right) for y in (keep.top, keep.bottom)]
    )
    for ratio in RATIOS:
        solution = solve(
            photo, measured(name).model_copy(update={"frame": FrameChoice(ratio=ratio, keep=keep)})
        )
        laid = corners @ solution.warp.homography.T
        frame = solution.frame
        kept = box(frame.x - 1, frame.y - 1, frame.x + frame.width + 1, frame.y + frame.height + 1)
        assert kept.contains(Polygon((laid[:, :2] / laid[:, 2:])[[0, 1, 3, 2]])), ratio
