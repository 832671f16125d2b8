"""The OpenAPI document as a file: ``python -m sequor.web.openapi FILE`` (see bin/types)."""

import json
import sys
import tempfile
from pathlib import Path

from sqlalchemy import create_engine

from sequor.services.engine import engine_for
from sequor.settings import Settings
from sequor.web.app import create_app


def document() -> str:
    """The document that the server serves, as indented JSON; needs no database."""
    with tempfile.TemporaryDirectory() as folder:
        settings = Settings(data=Path(folder))
        database = create_engine("mysql+pymysql://nobody@127.0.0.1:1/none")
        app = create_app(settings, engine_for(settings), database)
        return json.dumps(app.api_doc, indent=2, ensure_ascii=False) + "\n"


if __name__ == "__main__":
    Path(sys.argv[1]).write_text(document())
