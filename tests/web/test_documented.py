"""The document of the interface is made when it is asked for, and then it is whole."""

from typing import Any, ClassVar

from flask_openapi3 import Tag
from pydantic import BaseModel

from sequor.web.documented import Documented, Room


class Asked(BaseModel):
    made: ClassVar[int] = 0
    name: str

    @classmethod
    def model_json_schema(cls, *given: Any, **named: Any) -> dict[str, Any]:
        Asked.made += 1
        return super().model_json_schema(*given, **named)


def test_no_schema_is_made_before_the_document_is_asked_for() -> None:
    room = Room("greetings", __name__, url_prefix="/api", abp_tags=[Tag(name="greetings")])

    @room.post("/greetings/<int:number>", responses={200: Asked})
    def greet(body: Asked) -> dict[str, str]:
        return {"said": f"Good day, {body.name}"}

    assert Asked.made == 0
    documents = []
    for name in ("first", "second"):  # rooms are shared by the applications of a process
        app = Documented(name, doc_prefix="/api", doc_url="/openapi.json")
        app.register_api(room)
        before = Asked.made
        client = app.test_client()
        answer = client.post("/api/greetings/1", json={"name": "you"})
        assert answer.json == {"said": "Good day, you"}
        assert client.post("/api/greetings/1", json={"name": 3}).status_code == 422
        assert Asked.made == before
        documents += [client.get("/api/openapi.json").json for _ in range(2)]
    assert Asked.made > 0
    first, again, second, _ = documents
    assert again == first
    assert first["paths"] == second["paths"]
    assert list(first["paths"]) == ["/api/greetings/{number}"]
    assert {"Asked"} <= set(first["components"]["schemas"])
    assert [tag["name"] for tag in second["tags"]] == ["greetings"]
