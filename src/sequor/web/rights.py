"""What each address asks of who acts: one table for all of them, and what the audit log calls it.

An address that is not in the table is answered to nobody but an owner; a test makes sure that every
one is (tests/web/test_rights.py).
"""

from collections.abc import Callable, Mapping
from dataclasses import dataclass, field, replace
from functools import partial
from typing import Any

from flask import Flask, Response, request

from sequor.core.language import tr
from sequor.services import rights
from sequor.services.resources import Resources
from sequor.store.acting import Actor, PresentDeed, Right, Role, act_as, actor
from sequor.store.files import BEFORE_LIGHT
from sequor.web.answers import problem
from sequor.web.context import resources
from sequor.web.events import tell
from sequor.web.who import OPEN_TO_ALL, for_a_moment

LOOK, WORK, EXPORT, OWN = Right.LOOK, Right.WORK, Right.EXPORT, Right.OWN
_RANK: Mapping[Role, int] = {"guest": 0, "member": 1, "owner": 2}
_MOST_NAMED = 200
"""Numbers of pictures that a line of the audit log has at most."""
_PEOPLES = ("person_id", "link_id", "invitation_id", "sign_in_id", "comment_id")
"""What else a line names, if the request does."""
Given = Mapping[str, Any]


@dataclass(frozen=True)
class Needs:
    """What an address asks for.

    Parameters
    ----------
    role : {"guest", "member", "owner"}
        The least role.
    of : mapping of str to Right
        What the request names, by `_SUBJECTS`, and the right that is needed of it.
    deed : str
        What the audit log calls it, where it changes anything or takes anything along.
    at_once : bool
        The line is written before the answer: what only gives something away changes nothing.
    image : bool
        It is about an original, and a recipe of it, by their hashes.
    """

    role: Role = "guest"
    of: Mapping[str, Right] = field(default_factory=dict)
    deed: str = ""
    at_once: bool = False
    image: bool = False


def _numbers(found: object) -> list[int]:
    """The numbers in what a request gives: one, a list, or a text of several. Whatever the bodies'
    own models take for a number is one here too.
    """
    if isinstance(found, str):
        found = found.split(",")
    listed = found if isinstance(found, list) else [found]
    given = (one.get("picture_id") if isinstance(one, dict) else one for one in listed)
    numbers = (_number(one) for one in given)
    return [number for number in numbers if number is not None and abs(number) < 2**63]


def _number(given: object) -> int | None:
    if not isinstance(given, int | float | str):
        return None
    try:
        return int(float(given)) if isinstance(given, str) and "." in given else int(given)
    except (ValueError, OverflowError):
        return None


def _act(own: Resources, ids: list[int], need: Right) -> None:
    for number in ids:
        rights.require_of_act(own, number, need)


@dataclass(frozen=True)
class InRequest:
    """What a request may name: where it stands in the request, and who says whether it may be.

    ``noted`` is what the audit log calls the numbers, where it does not have a place for them.
    """

    field: str
    require: Callable[[Resources, list[int], Right], None]
    noted: str = ""


_SUBJECTS: Mapping[str, InRequest] = {
    "set": InRequest("set_id", rights.require_of_sets),
    "into": InRequest("into_id", rights.require_of_sets, "into"),
    "sets": InRequest("set_ids", rights.require_of_sets, "sets"),
    "picture": InRequest("picture_id", rights.require_of_pictures),
    "pictures": InRequest("picture_ids", rights.require_of_pictures, "pictures"),
    "picture_list": InRequest("ids", rights.require_of_pictures, "pictures"),
    "targets": InRequest("targets", rights.require_of_pictures, "pictures"),
    "export": InRequest("export_id", rights.require_of_exports, "exports"),
    "export_list": InRequest("ids", rights.require_of_exports, "exports"),
    "act": InRequest("act_id", _act, "acts"),
}
_SEE = Needs()
_LISTS = Needs("member")
_OWNERS = Needs("owner")
_LOOKS = Needs(of={"picture": LOOK})
_IMAGE = Needs(image=True)
_EDITS = Needs(of={"picture": WORK}, deed="edited")
NEEDS: Mapping[str, Needs] = {
    "metrics.metrics": _OWNERS,
    "state.get_state": _OWNERS,
    "openapi.doc_url": _SEE,
    "openapi.openapi": _SEE,
    "openapi.static": _SEE,
    "page": _SEE,
    # sets
    "sets.list_sets": _SEE,
    "sets.create_set": Needs("member", deed="set_made"),
    "sets.order_sets": Needs("owner", deed="sets_ordered"),
    "sets.get_set": Needs(of={"set": LOOK}),
    "sets.change_set": Needs(of={"set": OWN}, deed="set_changed"),
    "sets.bin_set": Needs(of={"set": OWN}, deed="set_binned"),
    "sets.merge_set": Needs(of={"set": OWN, "into": OWN}, deed="sets_merged"),
    "sets.split_set": Needs("member", {"set": OWN, "pictures": OWN}, "set_split"),
    "sets.add_picture": Needs(of={"set": WORK}, deed="pictures_added"),
    # Paths of the server's own machine are its owner's.
    "sets.open_picture": Needs("owner", {"set": WORK}, "pictures_added"),
    "sets.write_beside": Needs("owner", {"set": WORK}, "written_beside"),
    # pictures
    "curating.move_pictures": Needs(of={"pictures": OWN, "set": WORK}, deed="pictures_moved"),
    "curating.copy_pictures": Needs(of={"pictures": EXPORT, "set": WORK}, deed="pictures_copied"),
    "curating.bin_pictures": Needs(of={"pictures": WORK}, deed="pictures_binned"),
    "curating.get_bin": _LISTS,
    "curating.restore": Needs("member", {"pictures": WORK, "sets": OWN}, "taken_out_of_bin"),
    "curating.empty_bin": Needs("owner", deed="bin_emptied"),
    "curating.get_storage": _OWNERS,
    "curating.get_quarantine": _OWNERS,
    "curating.delete_quarantined": Needs("owner", deed="set_aside_deleted"),
    "curating.take_out_of_quarantine": Needs("owner", {"set": WORK}, "pictures_added"),
    # archives
    "archives.archive_set": Needs(of={"set": EXPORT}, deed="downloaded", at_once=True),
    "archives.archive_pictures": Needs(
        of={"picture_list": EXPORT}, deed="downloaded", at_once=True
    ),
    "archives.bring_in": Needs("member", deed="set_made"),
    "archives.get_recipe": _LOOKS,
    # the bench
    "bench.get_options": _SEE,
    "bench.get_picture": _LOOKS,
    "bench.check_camera_level": _LOOKS,
    "bench.find_lenses": _LOOKS,
    "bench.draft_edits": Needs(of={"picture": WORK}),
    "bench.hold_guide": _LOOKS,
    "bench.read_picture": Needs(of={"picture": WORK}),
    "bench.record_edits": _EDITS,
    "bench.undo": Needs(of={"picture": WORK}, deed="undone"),
    "bench.redo": Needs(of={"picture": WORK}, deed="redone"),
    "carrying.get_carry_options": _SEE,
    "carrying.look_at_carry": Needs(of={"picture": LOOK, "pictures": WORK}),
    "carrying.carry_over": Needs(of={"picture": LOOK, "targets": WORK}, deed="carried"),
    "carrying.undo_act": Needs(of={"act": WORK}, deed="undone"),
    "frames.check_corners": _LOOKS,
    "frames.compare_corner_ways": _LOOKS,
    "frames.find_least_harm": Needs(of={"picture": WORK}),
    "frames.get_fill": _LOOKS,
    "frames.size_output": _LOOKS,
    "history.get_history": _LOOKS,
    "history.get_entry": _LOOKS,
    "history.get_entry_picture": _LOOKS,
    "history.go_back": _EDITS,
    "history.list_versions": _LOOKS,
    "history.add_version": Needs(of={"picture": WORK}, deed="version_made"),
    "history.name_version": Needs(of={"picture": WORK}, deed="version_named"),
    # images, by what they are of
    "images.get_filled": _IMAGE,
    "images.get_piece": _IMAGE,
    "images.get_proxy": _IMAGE,
    "images.get_thumbnail": _IMAGE,
    "images.get_tile": _IMAGE,
    "images.get_undistorted": _IMAGE,
    "images.get_view": _IMAGE,
    # lists that all share
    "frames.list_print_sizes": _SEE,
    "frames.add_print_size": Needs("member", deed="list_changed"),
    "frames.change_print_size": Needs("member", deed="list_changed"),
    "frames.remove_print_size": Needs("member", deed="list_changed"),
    "frames.list_weightings": _SEE,
    "frames.store_weighting": Needs("member", deed="list_changed"),
    "frames.remove_weighting": Needs("member", deed="list_changed"),
    "exports.list_presets": _SEE,
    "exports.store_preset": Needs("member", deed="list_changed"),
    "exports.remove_preset": Needs("member", deed="list_changed"),
    # exports
    "exports.get_file_options": _SEE,
    "exports.list_exports": _LOOKS,
    "exports.list_all_exports": _LISTS,
    "exports.name_exports": Needs(of={"pictures": LOOK}),
    "exports.start_export": Needs(of={"picture": EXPORT}, deed="exported"),
    "exports.start_exports": Needs(of={"pictures": EXPORT}, deed="exported"),
    "exports.get_export": Needs(of={"export": LOOK}),
    "exports.export_again": Needs(of={"export": EXPORT}, deed="exported"),
    "exports.cancel_export": Needs(of={"export": EXPORT}, deed="export_cancelled"),
    "exports.clear_exports": Needs("member", {"export_list": EXPORT}, "exports_cleared"),
    "exports.download_export": Needs(of={"export": EXPORT}, deed="downloaded", at_once=True),
    "exports.zip_exports": Needs(of={"export_list": EXPORT}, deed="downloaded", at_once=True),
    "events.listen": Needs(of={"picture": LOOK, "set": LOOK}),
    # people
    "accounts.sign_out": Needs(deed="signed_out"),
    "accounts.change_password": Needs(deed="password_changed"),
    "accounts.list_sign_ins": _SEE,
    "accounts.end_sign_in": Needs(deed="sign_in_ended"),
    "accounts.list_people": _OWNERS,
    "accounts.change_person": Needs("owner", deed="role_changed"),
    "accounts.remove_person": Needs("owner", deed="account_removed"),
    "accounts.reset_person": Needs("owner", deed="invited"),
    "accounts.invite": Needs("owner", deed="invited"),
    "accounts.withdraw_invitation": Needs("owner", deed="invitation_withdrawn"),
    "accounts.list_deeds": _OWNERS,
    # sharing
    "shares.get_sharing": Needs(of={"set": OWN}),
    "shares.share_set": Needs(of={"set": OWN}, deed="shared"),
    "shares.stop_sharing": Needs(of={"set": OWN}, deed="share_ended"),
    "shares.give_set": Needs(of={"set": OWN}, deed="set_given"),
    "shares.make_link": Needs(of={"set": OWN}, deed="link_made"),
    "shares.end_link": Needs(of={"set": OWN}, deed="link_ended"),
    "shares.list_remarks": Needs(of={"set": LOOK}),
    "shares.list_comments": _LOOKS,
    "shares.comment": Needs(of={"picture": LOOK}, deed="commented"),
    "shares.remove_comment": Needs(deed="comment_removed"),
    "clients.mark_favourite": Needs(of={"picture": LOOK}, deed="favourite_marked"),
    "clients.unmark_favourite": Needs(of={"picture": LOOK}, deed="favourite_unmarked"),
    "clients.comment_as_client": Needs(of={"picture": LOOK}, deed="commented"),
    "clients.take_comment_back": Needs(deed="comment_removed"),
    "clients.get_shown": _SEE,
    "clients.get_shown_picture": _LOOKS,
}


def register(app: Flask) -> None:
    """Ask for it before every request of somebody who is named."""

    @app.before_request
    def ask() -> Response | None:
        somebody, endpoint = actor(), request.endpoint
        if somebody is None or endpoint is None or endpoint in OPEN_TO_ALL:
            return None
        return _ask(somebody, NEEDS.get(endpoint, _OWNERS))


def _ask(somebody: Actor, needs: Needs) -> Response | None:
    if _RANK[somebody.role] < _RANK[needs.role]:
        return problem(tr("Your account may not do this; ask who looks after Sequor."), 403)
    given = _given()
    for name, need in needs.of.items():
        subject = _SUBJECTS[name]
        numbers = _numbers(given.get(subject.field))
        require = partial(subject.require, resources(), numbers, need)
        for_a_moment(("may", replace(somebody, deed=None), name, need, *numbers), require)
    if needs.image:
        sha256 = str(given.get("original", "")).partition(BEFORE_LIGHT)[0]
        rights.require_to_see(resources(), sha256, given.get("recipe_hash"))
    deed = _deed(needs, given) if needs.deed else None
    act_as(replace(somebody, need=min(needs.of.values(), default=LOOK), deed=deed))
    if needs.at_once:
        rights.write_deed(resources())
    return None


def _given() -> dict[str, Any]:
    """What a request names: in its address, and in its body or, where it has none, its query."""
    if request.method in ("GET", "HEAD"):
        named: object = request.args.to_dict()
    else:
        named = request.get_json(silent=True) if request.is_json else None
    return {**(named if isinstance(named, dict) else {}), **(request.view_args or {})}


def _deed(needs: Needs, given: Given) -> PresentDeed:
    """The line of the audit log, of what the request names; others hear of what it changes."""
    found = PresentDeed(needs.deed, told=None if needs.at_once else tell)
    for name in needs.of:
        subject = _SUBJECTS[name]
        numbers = _numbers(given.get(subject.field))
        if name == "set":
            found.set_id = next(iter(numbers), None)
        elif name == "picture":
            found.picture_id = next(iter(numbers), None)
        else:
            found.facts[subject.noted] = numbers[:_MOST_NAMED]
    for name in _PEOPLES:
        for number in _numbers(given.get(name)):
            found.facts[name] = number
    return found
