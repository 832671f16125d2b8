"""An application whose OpenAPI document is made when it is asked for: the schemas of all that can
be sent and answered take a second or two, which nobody is to wait for at a start.
"""

from collections.abc import Callable
from threading import Lock
from typing import Any

from flask_openapi3 import APIBlueprint, OpenAPI

_MAKING = Lock()


class Room(APIBlueprint):
    """A part of the interface. What its addresses take is known at once, as the requests need it;
    how the document describes them, with `describe`.
    """

    def __init__(self, *given: Any, **named: Any) -> None:
        super().__init__(*given, **named)
        self._undescribed: list[tuple[str, Callable[..., Any], dict[str, Any]]] = []

    def _collect_openapi_info(self, rule: str, func: Callable[..., Any], **said: Any) -> Any:
        self._undescribed.append((rule, func, said))
        return super()._collect_openapi_info(rule, func, **{**said, "doc_ui": False})

    def describe(self) -> None:
        """Describe the addresses for the document, once."""
        for rule, func, said in self._undescribed:
            super()._collect_openapi_info(rule, func, **said)
        self._undescribed.clear()


class Documented(OpenAPI):
    """The application; its rooms are described when its document is asked for first."""

    def __init__(self, *given: Any, **named: Any) -> None:
        super().__init__(*given, **named)
        self._rooms: list[Room] = []

    def register_api(self, api: APIBlueprint, **options: Any) -> None:
        """Take in a room."""
        super().register_api(api, **options)
        if isinstance(api, Room):
            self._rooms.append(api)

    @property
    def api_doc(self) -> dict[str, Any]:
        """The OpenAPI document."""
        with _MAKING:
            for room in self._rooms:
                room.describe()
                self.paths.update(room.paths)
                self.components_schemas.update(room.components_schemas)
                new = [tag for tag in room.tags if tag.name not in self.tag_names]
                self.tags.extend(new)
                self.tag_names.extend(tag.name for tag in new)
            self._rooms.clear()
            made: dict[str, Any] = super().api_doc
            return made
