"""Requests as no page sends them: good ones with a thing or two in them spoilt."""

import copy
import json
import random
from collections.abc import Iterator
from dataclasses import dataclass
from typing import Any

NASTY: list[Any] = [
    *(0, -1, 1, 2**31, -(2**63), 10**30, 0.5, -0.0, 1e308, -1e308, 5e-324, 1e-9, 1e7, 359.99),
    *(
        float("nan"),
        float("inf"),
        None,
        True,
        False,
        "",
        "x",
        "\x00",
        "é" * 300,
        "../../etc/passwd",
    ),
    *(
        "'; DROP TABLE pictures; --",
        "9" * 400,
        "16:0",
        "1:1",
        "nan",
        [],
        {},
        [[]],
        [1, 2],
        "a" * 41,
    ),
    *([[0, 0]], [[1e308, 1e308], [0, 0]], {"do": "turn_by"}, [[5, 5], [5, 5]], "#12345g"),
]


@dataclass(frozen=True)
class Request:
    """What is sent."""

    method: str
    path: str
    body: bytes | None = None
    kind: str = "application/json"


def edits(reading: str) -> list[dict[str, Any]]:
    """One good edit of every kind, for a picture of 900 by 600 with a level reading."""
    corners = [[100, 100], [500, 110], [510, 400], [90, 390]]
    trace = [[100, 50], [300, 45], [500, 43], [800, 50]]
    box, shore = [[200, 200], [400, 300]], [[50, 291], [850, 309]]
    size = {"width": 10, "height": 8, "unit": "in", "ppi": 50}
    candidate = {"style": "calm", "draw": 2}
    listed: list[tuple[str, dict[str, Any]]] = [
        ("draw_reading", {"id": "n", "kind": "plumb", "points": [[90, 80], [95, 500]], "zoom": 1}),
        ("draw_reading", {"id": "t", "kind": "trace", "points": trace, "seen": "as_shot"}),
        (
            "draw_reading",
            {"id": "f", "kind": "level", "points": shore, "fit": True},
        ),
        ("place_rectangle", {"group": "g", "vertices": corners, "seen": "undistorted"}),
        ("move_point", {"id": reading, "point": 1, "to": [800, 305], "zoom": 2}),
        ("move_reading", {"id": reading, "places": [[300, 300], [320, 290]], "refit": True}),
        ("add_stated", {"axis": "roll"}),
        ("start_over", {}),
        ("nudge_point", {"id": reading, "point": 0, "by": [0.1, -0.1]}),
        ("fit_reading", {"id": reading}),
        ("unfit_reading", {"id": reading}),
        ("remove_reading", {"id": reading}),
        ("switch_readings", {"ids": [reading], "active": False}),
        ("prefer_reading", {"id": reading, "over": [reading]}),
        ("make_checks", {"ids": [reading]}),
        ("keep_agreeing", {}),
        ("show_reading", {"id": reading, "shown": False}),
        ("name_reading", {"id": reading, "name": "shore"}),
        ("read_camera", {"sigma_deg": 0.5, "offset_deg": -0.4}),
        ("weigh_reading", {"id": reading, "weight": 2}),
        ("let_trace_serve", {"id": reading, "serves_as": "level"}),
        ("turn_by", {"axis": "roll", "deg": 1.5}),
        ("turn_by", {"axis": "lean", "deg": 20}),
        ("turn_by", {"axis": "swing", "deg": -12}),
        ("type_angle", {"axis": "roll", "text": "1.33 cw"}),
        ("reset_trim", {"axis": "roll"}),
        ("hold_axis", {"axis": "swing", "deg": 3}),
        ("free_axis", {"axis": "swing"}),
        ("set_ease", {"part": "roll", "share": 0.5}),
        ("scale_ease", {"share": 0.5}),
        ("set_focal", {"focal35_mm": 24}),
        ("choose_lens_source", {"source": "hand"}),
        ("set_radial", {"k1": -0.08, "k2": 0.01}),
        ("use_lens", {"name": "none such", "polynomial": [0, -0.05, 0, 0.01]}),
        ("choose_white", {"source": "shade"}),
        ("pick_grey", {"point": [300, 200], "x": 0.35, "y": 0.36}),
        ("set_proportion", {"proportion": 1.1}),
        ("mark_true_shape", {"opposite": box, "seen": "corrected"}),
        ("give_true_shape", {}),
        ("judge_by_eye", {"turns": [1, 1.5, 1.25]}),
        ("pull_corner", {"corner": 1, "by": [30, -20]}),
        ("choose_ratio", {"ratio": "3:2"}),
        ("choose_print_size", {"size": size}),
        ("turn_shape", {}),
        ("keep_box", {"opposite": box, "seen": "as_shot"}),
        ("give_air", {"air": 0.2}),
        ("give_margin", {"margin": 0.1}),
        ("look_to", {"side": "left"}),
        ("move_keep_corner", {"corner": "top_left", "to": [210, 220]}),
        ("aim_at", {"point": [300, 250], "guide": "thirds"}),
        ("move_aim", {"to": [310, 260]}),
        ("change_aim", {"guide": "golden", "meets": "line"}),
        ("aim_between", {"between": [reading, "n"]}),
        ("clear_aim", {}),
        ("drag_frame", {"handle": [1, 0], "by": [-20, 0], "past": False}),
        ("best_frame", {}),
        ("allow_fill", {"allowance": 0.5}),
        ("fill_with", {"method": "mirror"}),
        ("choose_colour", {"colour": "#102030"}),
        ("choose_candidate", {"corner": 1, "candidate": candidate}),
        ("avoid_box", {"opposite": box}),
        ("copy_everything", {}),
        ("brush_still", {"points": [[300, 250], [340, 260]], "reach": 12, "seen": "corrected"}),
        ("mend_place", {"points": [[300, 250], [340, 260]], "reach": 12, "seen": "corrected"}),
        ("mend_otherwise", {"number": 1, "candidate": candidate}),
        ("mend_from", {"number": 1, "place": [200, 220], "seen": "corrected"}),
        ("remove_mend", {"number": 1}),
    ]
    return [{"do": do, **rest} for do, rest in listed]


def others(there: dict[str, Any]) -> list[tuple[str, str, dict[str, Any] | None]]:
    """One good request for every address that is not about the bench: method, path, body.

    Parameters
    ----------
    there : dict
        Numbers of what is there to be moved, thrown away and deleted: ``set``, ``picture`` with its
        ``entry``, ``export``, ``act``, ``size``, ``preset``, ``weighting``.
    """
    picture, one_set = f"/api/pictures/{there['picture']}", f"/api/sets/{there['set']}"
    some = {"picture_ids": [there["picture"]]}
    based_on, target = there["entry"], {"picture_id": there["picture"], "entry_id": there["entry"]}
    size = {"name": "s", "width": 10, "height": 8, "unit": "in", "ppi": 50}
    carried = {"based_on": based_on, "parts": ["stance", "shape"]}
    return [
        ("GET", "/api/health", None),
        ("GET", "/api/metrics", None),
        ("GET", "/api/state", None),
        ("GET", "/api/options", None),
        ("GET", "/api/file-options", None),
        ("GET", "/api/carry-options", None),
        ("GET", "/api/sets", None),
        ("PUT", "/api/sets/order", {"set_ids": [there["set"]]}),
        ("GET", one_set, None),
        ("PATCH", one_set, {"name": "Quay", "description": "May"}),
        ("DELETE", one_set, None),
        ("POST", f"{one_set}/merge", {"into_id": there["set"] + 1}),
        ("POST", f"{one_set}/split", {**some, "name": "Apart"}),
        ("POST", f"{one_set}/pictures", None),
        ("POST", f"{one_set}/opened", {"path": "/no/such/file.png", "as_damaged": False}),
        ("POST", f"{one_set}/sidecars", None),
        ("GET", f"{one_set}/archive.zip", None),
        ("POST", "/api/archives", None),
        ("POST", "/api/pictures/move", {**some, "set_id": there["set"]}),
        ("POST", "/api/pictures/copy", {**some, "set_id": there["set"]}),
        ("POST", "/api/pictures/bin", some),
        ("GET", "/api/bin", None),
        ("POST", "/api/bin/restore", {**some, "set_ids": [there["set"]]}),
        ("POST", "/api/bin/empty", None),
        ("GET", "/api/quarantine", None),
        ("POST", "/api/quarantine/take-back", {"names": ["0" * 64], "set_id": there["set"]}),
        ("POST", "/api/quarantine/delete", {"names": ["../key"]}),
        ("GET", "/api/storage", None),
        ("GET", f"/api/pictures.zip?ids={there['picture']}", None),
        ("GET", picture, None),
        ("GET", f"{picture}/recipe.json", None),
        ("POST", f"{picture}/redo", {"based_on": based_on}),
        ("POST", f"{picture}/proposal", {"based_on": based_on, "edits": [], "want": "level"}),
        ("GET", f"{picture}/history", None),
        ("GET", f"{picture}/entries/{there['entry']}", None),
        ("POST", f"{picture}/return", {"based_on": based_on, "entry_id": there["entry"]}),
        ("GET", f"{picture}/versions", None),
        ("POST", f"{picture}/versions", {"based_on": based_on, "name": "a", "edits": []}),
        ("PATCH", f"{picture}/version", {"name": "b"}),
        ("POST", f"{picture}/carry/look", {**carried, **some}),
        ("POST", f"{picture}/carry", {**carried, "targets": [target], "files": True}),
        ("POST", f"/api/acts/{there['act']}/undo", None),
        ("GET", f"{picture}/corner-ways?entry={there['entry']}", None),
        ("GET", "/api/print-sizes", None),
        ("POST", "/api/print-sizes", size),
        ("PUT", f"/api/print-sizes/{there['size']}", size),
        ("DELETE", f"/api/print-sizes/{there['size']}", None),
        ("GET", f"{picture}/camera-level", None),
        ("GET", f"{picture}/exports", None),
        ("POST", "/api/exports", {**some, "format": "png"}),
        ("POST", "/api/exports/names", {**some, "format": "jxl", "pattern": "{date}-{time}"}),
        ("GET", "/api/exports?limit=5&since=2026-11-29T00:00:00", None),
        ("GET", f"/api/exports.zip?ids={there['export']}", None),
        ("POST", f"/api/exports/{there['export']}/again", None),
        ("POST", "/api/exports/clear", {"ids": [there["export"]], "older_days": None}),
        ("GET", f"/api/exports/{there['export']}", None),
        ("POST", f"/api/exports/{there['export']}/cancel", None),
        ("GET", f"/api/exports/{there['export']}/file", None),
        ("GET", "/api/presets", None),
        ("POST", "/api/presets", {"name": "p", "options": {"format": "png"}}),
        ("DELETE", f"/api/presets/{there['preset']}", None),
        (
            "POST",
            f"{picture}/least-harm",
            {"entry_id": there["entry"], "weights": {"bent": "never"}},
        ),
        ("GET", "/api/weightings", None),
        ("POST", "/api/weightings", {"name": "w", "weights": {"made_up": "never"}}),
        ("DELETE", f"/api/weightings/{there['weighting']}", None),
    ]


Asked = tuple[str, str, dict[str, Any] | None]
"""Method, path, body."""


def sharing(there: dict[str, Any]) -> list[Asked]:
    """One good request for every address of sharing, with the first account."""
    picture, one_set = f"/api/pictures/{there['picture']}", f"/api/sets/{there['set']}"
    return [
        ("GET", f"{one_set}/sharing", None),
        ("GET", f"{one_set}/remarks", None),
        ("PUT", f"{one_set}/shares/1", {"right": "look"}),
        ("DELETE", f"{one_set}/shares/1", None),
        ("PUT", f"{one_set}/owner", {"person_id": 1}),
        ("POST", f"{one_set}/links", {"label": "a", "last_day": "2999-01-01"}),
        ("DELETE", f"{one_set}/links/1", None),
        ("GET", f"{picture}/comments", None),
        ("POST", f"{picture}/comments", {"x": 0, "y": 0, "words": "a"}),
        ("GET", f"{picture}/entries/{there['entry']}/picture.jpg?edge=300", None),
        ("GET", f"/api/events?picture_id={10**9 + there['picture']}", None),
    ]


def people(there: dict[str, Any]) -> list[Asked]:
    """One good request for every address of accounts, and of what a link shows."""
    shown = f"/api/shown/{'t' * 43}"
    invitation, picture = f"/api/invitations/{'t' * 43}", f"{shown}/pictures/{there['picture']}"
    return [
        ("POST", "/api/sign-in", {"name": "Ida", "password": "quiet harbour before nine"}),
        ("POST", "/api/sign-out", None),
        ("GET", "/api/me", None),
        ("GET", "/api/sign-on", None),
        ("GET", "/api/sign-on/back?code=a&state=b", None),
        ("POST", "/api/me/password", {"old": "a", "new": "quiet harbour before ten"}),
        ("GET", "/api/me/sign-ins", None),
        ("DELETE", "/api/me/sign-ins/1", None),
        ("GET", "/api/people", None),
        ("PATCH", "/api/people/1", {"role": "member"}),
        ("DELETE", "/api/people/1", None),
        ("POST", "/api/people/1/reset", None),
        ("POST", "/api/invitations", {"role": "guest"}),
        ("DELETE", "/api/invitations/1", None),
        ("GET", f"{invitation}/about", None),
        ("POST", f"{invitation}/use", {"name": "Eve", "password": "quiet harbour before ten"}),
        ("GET", "/api/deeds?limit=5", None),
        ("DELETE", "/api/comments/1", None),
        ("GET", shown, None),
        ("GET", f"{picture}/picture-{there['entry']}.jpg?edge=300", None),
        ("PUT", f"{picture}/favourite", None),
        ("DELETE", f"{picture}/favourite", None),
        ("POST", f"{picture}/comments", {"x": 0, "y": 0, "words": "a"}),
        ("DELETE", f"{shown}/comments/1", None),
    ]


def requests(
    state: dict[str, Any], seed: int, there: dict[str, Any] | None = None
) -> Iterator[Request]:
    """Spoilt requests without end, the same for a seed, about a picture on the bench; and about
    what else is there (see `others`).
    """
    chance = random.Random(seed)
    reading = state["recipe"]["readings"][0]["id"]
    good, picture = edits(reading), f"/api/pictures/{state['id']}"
    images = state["addresses"]["corrected"]
    original = state["addresses"]["original"]
    while True:
        what = chance.random()
        if there and chance.random() < 0.3:
            method, path, body = chance.choice([*others(there), *sharing(there), *people(there)])
            if chance.random() < 0.2:
                path = _spoilt_path(chance, path)
            as_json = None if body is None else _as_json(chance, _spoilt(chance, body))
            yield Request(method, path, as_json)
        elif what < 0.65:
            chosen = [copy.deepcopy(chance.choice(good)) for _ in range(chance.randint(1, 4))]
            body = {"based_on": state["entry_id"], "edits": chosen}
            way = chance.choice(("draft", "draft", "draft", "ledger", "guide"))
            if way == "guide":
                body |= {"direction": "level", "ends": [[100, 300], [700, 300]]}
            yield Request("POST", f"{picture}/{way}", _as_json(chance, _spoilt(chance, body)))
        elif what < 0.75:
            size = {"kind": "long_edge", "long_edge": 300}
            options = {"format": "png", "quality": 90, "size": size, "pattern": "{name}-{width}"}
            body = _spoilt(chance, {"entry_id": state["entry_id"], **options})
            way = chance.choice(("output", "exports"))
            if way == "output":
                body = _spoilt(chance, {"entry_id": state["entry_id"], "size": size})
            yield Request("POST", f"{picture}/{way}", _as_json(chance, body))
        elif what < 0.93:
            values = {"x": 0, "y": 0, "width": 300, "height": 200, "scale": 0.5, "edge": 64}
            values |= {"c1": 0, "c2": -0.05, "c3": 0, "c4": 0, "candidates": "", "quick": "true"}
            values |= {"entry": state["entry_id"], "text": "50"}
            query = "&".join(
                f"{name}={_quoted(chance.choice(NASTY) if chance.random() < 0.2 else value)}"
                for name, value in values.items()
            )
            path = chance.choice(
                (
                    *(f"{images}/{name}" for name in ("view.jpg", "thumbnail.jpg", "filled.jpg")),
                    f"{images}/pieces/{chance.choice(('left', 'top-left', 'x'))}.png",
                    *(f"{original}/{name}" for name in ("undistorted.jpg", "proxy.jpg")),
                    f"{original}/tiles/{chance.choice((0, 3, 99, 10**12))}/0.png",
                    *(f"{picture}/{name}" for name in ("fill", "corners", "lenses", "exports")),
                )
            )
            yield Request("GET", f"{path}?{query}")
        else:
            name = chance.choice([*NASTY, "a" * 5000, "Coast", " Coast "])
            path = chance.choice(
                ("/api/sets", "/api/print-sizes", f"{picture}/undo", "/api/exports")
            )
            body = {"name": name, "based_on": chance.choice(NASTY), "picture_ids": [name]}
            if path == "/api/sets":
                body = {"name": name}
            yield Request(chance.choice(("POST", "PUT", "DELETE")), path, _as_json(chance, body))


def _spoilt(chance: random.Random, good: Any) -> Any:
    """A body with a value or two replaced, left out, or repeated."""
    body = copy.deepcopy(good)
    for _ in range(chance.choice((0, 1, 1, 2))):
        places = list(_places(body))
        if not places:
            break
        holder, key = chance.choice(places)
        if chance.random() < 0.7:
            holder[key] = copy.deepcopy(chance.choice(NASTY))
        elif isinstance(holder, dict):
            del holder[key]
        else:
            holder.extend([holder[key]] * chance.choice((1, 70, 300)))
    return body


def _places(value: Any) -> Iterator[tuple[Any, Any]]:
    keys = (
        value if isinstance(value, dict) else range(len(value)) if isinstance(value, list) else ()
    )
    for key in list(keys):
        yield value, key
        yield from _places(value[key])


def _spoilt_path(chance: random.Random, path: str) -> str:
    """An address with one of its parts replaced."""
    parts = path.split("/")
    place = chance.randrange(2, len(parts))
    parts[place] = _quoted(chance.choice(NASTY))
    return "/".join(parts)


def _as_json(chance: random.Random, body: Any) -> bytes:
    """The body as text, now and then broken as text too."""
    text = json.dumps(body).encode()
    broken = chance.random()
    if broken < 0.03:
        return text[: chance.randint(0, len(text))]
    if broken < 0.05:
        at = chance.randint(0, len(text))
        return text[:at] + bytes(chance.randrange(256) for _ in range(4)) + text[at:]
    if broken < 0.06:
        return b"[" * 5000 + b"]" * 5000
    return text


def _quoted(value: Any) -> str:
    from urllib.parse import quote

    return quote(str(value).lower() if isinstance(value, bool) else str(value))
