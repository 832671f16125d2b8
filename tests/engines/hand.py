"""What a person does in a window, by what things are called."""

from pathlib import Path
from typing import Any

from tests.engines.windows import Window
from tests.ui.hands import ON_SCREEN
from tests.waiting import until

Place = tuple[float, float]

NAMED = """
  const [role, name] = arguments;
  const said = (text) => text.replaceAll(/\\s/g, '');
  const of = (one) => said(one.getAttribute('aria-label') ?? one.textContent);
  const is = (text) =>
    name.endsWith('…') ? text.startsWith(said(name.slice(0, -1))) : text === said(name);
  const found = [...document.querySelectorAll(role)].find(
    (one) => is(of(one)) && one.getClientRects().length && !one.disabled);
"""
"""Finds what is seen of a kind and has a name, or one that begins so: ``name…``."""
MIDDLE = f"""{NAMED}
  if (!found) return null;
  found.scrollIntoView({{ block: 'nearest' }});
  const box = found.getBoundingClientRect();
  return [box.left + box.width / 2, box.top + box.height / 2];
"""
KEYS = {"Control": "\ue009", "Shift": "\ue008"}


class Hand:
    """Points, drags and types in a window."""

    def __init__(self, window: Window) -> None:
        self.window = window

    def press(self, role: str, name: str) -> None:
        """A click on what is called so, as soon as it is there."""
        self.drag(*[self.place(role, name)] * 2)

    def place(self, role: str, name: str) -> Place:
        x, y = until(lambda: self.window.run(MIDDLE, role, name))
        return x, y

    def is_there(self, role: str, name: str) -> None:
        until(lambda: self.window.run(f"{NAMED} return Boolean(found)", role, name))

    def on_screen(self, x: float, y: float, size: tuple[int, int]) -> Place:
        """Where a point of the source is on the screen, by the engine's own layout."""
        left, top = self.window.run(f"return ({ON_SCREEN})(arguments[0])", [x, y, *size])
        return left, top

    def drag(self, start: Place, end: Place) -> None:
        def at(share: float) -> dict:
            return {
                "type": "pointerMove",
                "duration": 20,
                "x": round(start[0] + (end[0] - start[0]) * share),
                "y": round(start[1] + (end[1] - start[1]) * share),
            }

        moves = [at(step / 8) for step in range(1, 9)] if start != end else []
        down, up = ({"type": what, "button": 0} for what in ("pointerDown", "pointerUp"))
        self.window.act(
            {
                "type": "pointer",
                "id": "mouse",
                "parameters": {"pointerType": "mouse"},
                "actions": [at(0), down, *moves, up],
            }
        )

    def choose(self, css: str, file: Path) -> None:
        """Choose a file in a field that a button stands for."""
        self.window.run(
            "const field = document.querySelector(arguments[0]);"
            "field.hidden = false; field.style.cssText = 'display: block !important'",
            css,
        )
        self.window.choose(css, file)

    def keys(self, *names: str) -> None:
        """Keys that are pressed one within the other."""
        values = [KEYS.get(name, name) for name in names]
        downs = [{"type": "keyDown", "value": value} for value in values]
        ups = [{"type": "keyUp", "value": value} for value in reversed(values)]
        self.window.act({"type": "key", "id": "keys", "actions": [*downs, *ups]})

    def settled(self) -> None:
        """Wait until everything is kept and the picture lies still."""
        still = "return document.querySelector('[data-stage]')?.dataset.settled === 'true'"
        until(lambda: self.window.run(still))

    def value(self, css: str, attribute: str) -> Any:
        script = "return document.querySelector(arguments[0])?.getAttribute(arguments[1])"
        return self.window.run(script, css, attribute)

    def downloaded(self) -> Path:
        """The file that was exported, when all of it is there."""

        def come() -> Path | None:
            files = list(self.window.downloads.iterdir())
            whole = [file for file in files if file.suffix in {".png", ".jpg"}]
            partial = [file for file in files if file not in whole]
            return whole[0] if whole and not partial and whole[0].stat().st_size else None

        return until(come)
