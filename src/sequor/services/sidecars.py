"""Sidecars: what was decided about a picture, as JSON in a file beside it.

A picture that stays where it lies has its recipes there too, if that is asked for, so that whoever
opens the folder on another machine goes on from them. A sidecar has the recipe that holds for every
version, and not the ledger, which is in archives (docs/keeping.md).
"""

import json
from collections import defaultdict
from pathlib import Path
from typing import Annotated, Literal, NamedTuple

from pydantic import BaseModel, ConfigDict, Field, ValidationError
from sqlalchemy.orm import Session

from sequor.core.errors import UnusableInput
from sequor.core.language import english, tr
from sequor.core.recipe import Recipe
from sequor.core.solve import solve
from sequor.making.exports import ExportOptions
from sequor.services.beside import mode_beside
from sequor.services.resources import Resources
from sequor.store import ledger, library
from sequor.store.files import write_whole
from sequor.store.library import entry_of, photo_of
from sequor.store.models import Picture
from sequor.store.versions import MAX_VERSIONS, add_version

ENDING = ".sequor.json"
_MOST_BYTES = 4_000_000
_TAKEN = english("as its sidecar says")


class SidecarVersion(BaseModel):
    """A version: its name, the recipe that holds, and how it was exported last."""

    model_config = ConfigDict(extra="forbid")

    name: str = Field(default="", max_length=60)
    recipe: Recipe
    file_options: ExportOptions | None = None


class SidecarFile(BaseModel):
    """The whole file; ``sha256``, ``width`` and ``height`` are of the picture, upright."""

    model_config = ConfigDict(extra="forbid")

    format: Literal["sequor-sidecar"]
    format_version: Literal[1]
    sha256: str = Field(pattern="^[0-9a-f]{64}$")
    width: int = Field(gt=0)
    height: int = Field(gt=0)
    versions: Annotated[list[SidecarVersion], Field(min_length=1, max_length=MAX_VERSIONS)]


class Sidecar(NamedTuple):
    """A sidecar that was found beside a picture of some content: what it holds, or why it cannot
    be read.
    """

    of: str
    file: SidecarFile | None
    problem: str = ""


class WrittenSidecars(NamedTuple):
    """How many were written, and what is to be said of those that were not."""

    written: int
    refused: list[str]


def sidecar_path(picture: Path) -> Path:
    """Where the sidecar of a picture lies."""
    return picture.with_name(f"{picture.name}{ENDING}")


def sidecar_of(picture: Path, sha256: str) -> Sidecar | None:
    """The sidecar beside a picture, if there is one."""
    path = sidecar_path(picture)
    try:
        if path.stat().st_size > _MOST_BYTES:
            return Sidecar(sha256, None, tr("it is too large"))
        return Sidecar(sha256, SidecarFile.model_validate_json(path.read_bytes()))
    except FileNotFoundError:
        return None
    except OSError as problem:
        return Sidecar(sha256, None, str(problem.strerror))
    except ValidationError as problem:
        return Sidecar(sha256, None, str(problem.errors()[0]["msg"]))


def take_from(session: Session, picture: Picture, sidecar: Sidecar) -> str:
    """Let a new picture begin with what its sidecar says, all of it or nothing.

    Returns
    -------
    str
        What is to be said of it: empty where all is as it was written.
    """
    found, photo = sidecar.file, photo_of(picture.original)
    problem = sidecar.problem
    if found and (found.width, found.height) != (photo.width, photo.height):
        problem = tr(
            "it is of a picture of {width} x {height} pixels",
            width=found.width,
            height=found.height,
        )
    try:
        for version in found.versions if found and not problem else ():
            solve(photo, version.recipe)
    except UnusableInput as refused:
        problem = str(refused)
    if found is None or problem:
        return tr(
            "The sidecar of {name} was not taken: {problem}. The picture is as shot.",
            name=picture.name,
            problem=problem,
        )
    first, *others = found.versions
    if first.recipe != Recipe():
        entry = entry_of(picture, first.recipe, _TAKEN, picture.head_id)
        session.add(entry)
        session.flush()
        picture.head = entry
    picture.version_name = _line(first.name)
    picture.file_options = _dumped(first)
    session.flush()
    for version in others:
        made = add_version(session, picture.id, version.recipe, _line(version.name), _TAKEN)
        made.file_options = _dumped(version)
    if found.sha256 != sidecar.of:
        return tr(
            "The sidecar of {name} is of a file with other content but the same size.",
            name=picture.name,
        )
    return ""


def write_sidecars(resources: Resources, set_id: int) -> WrittenSidecars:
    """Write the recipes of a set beside its pictures that stay where they lie.

    A file of that name that is no sidecar is not replaced.

    Raises
    ------
    UnusableInput
        When the set has no such picture.
    """
    with resources.database.reading() as session:
        contents = _contents(session, set_id)
    if not contents:
        raise UnusableInput(
            tr(
                "No picture of this set stays where it lies; the recipes of those that "
                "were copied in go along in an archive."
            )
        )
    written, refused = 0, []
    for picture, content in contents.items():
        try:
            _write(sidecar_path(picture), content)
            sidecar_path(picture).chmod(mode_beside(picture))
            written += 1
        except UnusableInput as problem:
            refused.append(str(problem))
        except OSError as problem:
            refused.append(f"{picture.name}: {problem.strerror or problem}")
    return WrittenSidecars(written, refused)


def _contents(session: Session, set_id: int) -> dict[Path, SidecarFile]:
    versions: dict[Path, list[Picture]] = defaultdict(list)
    for picture in library.list_pictures(session, library.get_set(session, set_id).id):
        if picture.opened_from:
            versions[Path(picture.opened_from)].append(picture)
    return {path: _content(session, pictures) for path, pictures in versions.items()}


def _content(session: Session, pictures: list[Picture]) -> SidecarFile:
    ordered = sorted(pictures, key=lambda one: one.version)
    original = ordered[0].original
    return SidecarFile(
        format="sequor-sidecar",
        format_version=1,
        sha256=original.sha256,
        width=original.width,
        height=original.height,
        versions=[
            SidecarVersion.model_validate(
                {
                    "name": one.version_name,
                    "recipe": ledger.recipe_of(ledger.standing(session, one).entry),
                    "file_options": one.file_options,
                }
            )
            for one in ordered
        ],
    )


def _write(path: Path, content: SidecarFile) -> None:
    if path.exists():
        try:
            ours = json.loads(path.read_bytes())["format"] == "sequor-sidecar"
        except (ValueError, KeyError, TypeError):
            ours = False
        if not ours:
            raise UnusableInput(
                tr("{name} is there already and is no sidecar; it was left.", name=path.name)
            )
    write_whole(path, (content.model_dump_json(indent=1) + "\n").encode())


def _line(name: str) -> str:
    return library.clean_name(name, "")[:60]


def _dumped(version: SidecarVersion) -> dict[str, object] | None:
    return version.file_options.model_dump(mode="json") if version.file_options else None
