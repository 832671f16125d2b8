"""Accounts: signing in and out, links for new ones, roles, the audit log."""

from typing import Any

from flask import Response, g
from flask_login import current_user
from flask_openapi3 import Tag

from sequor.core.language import mark, tr, tr_plural
from sequor.services import people
from sequor.services.passwords import SHORTEST
from sequor.services.people import InvitationLine, LetIn
from sequor.store.acting import Role, actor, author_id
from sequor.store.people import is_served
from sequor.store.people_models import Deed, Person
from sequor.web.accounts_bodies import (
    Accepted,
    DeedOut,
    Deeds,
    DeedsQuery,
    InvitationOut,
    InvitationPath,
    MadeInvitation,
    Me,
    PasswordChange,
    People,
    PersonOut,
    PersonPath,
    RoleChange,
    RoleOption,
    SignInBody,
    SignInOut,
    SignInPath,
    SignIns,
    TokenPath,
)
from sequor.web.answers import answer
from sequor.web.common_bodies import Done, Problem, Responses
from sequor.web.context import resources
from sequor.web.documented import Room
from sequor.web.who import STRANGER, client, cookies_of_app, csrf, name_words

api = Room("accounts", __name__, url_prefix="/api", abp_tags=[Tag(name="accounts")])
_INVITATION = "/invitations/<string:token>"
_PERSON = "/people/<int:person_id>"
_REFUSALS: Responses = {401: Problem, 403: Problem, 404: Problem, 422: Problem, 429: Problem}
_ROLES: dict[Role, tuple[str, str]] = {
    "owner": (mark("owner"), mark("looks after Sequor: accounts, storage, every set")),
    "member": (mark("member"), mark("has sets, and works on those that are shared")),
    "guest": (mark("guest"), mark("looks at what is shared, and comments on it")),
}
_DEEDS: dict[str, str] = {
    "signed_in": mark("signed in"),
    "sign_in_refused": mark("was not let in"),
    "signed_out": mark("signed out"),
    "sign_in_ended": mark("ended a sign-in"),
    "password_changed": mark("changed a password"),
    "account_made": mark("made an account"),
    "account_removed": mark("removed an account"),
    "role_changed": mark("changed a role"),
    "invited": mark("made a link for an account"),
    "invitation_withdrawn": mark("withdrew such a link"),
    "set_made": mark("made a set"),
    "sets_ordered": mark("put the sets into another order"),
    "set_changed": mark("changed a set's name or description"),
    "set_binned": mark("threw a set away"),
    "sets_merged": mark("merged sets"),
    "set_split": mark("split a set"),
    "pictures_added": mark("added pictures"),
    "written_beside": mark("wrote recipes beside pictures"),
    "pictures_moved": mark("moved pictures"),
    "pictures_copied": mark("copied pictures"),
    "pictures_binned": mark("threw pictures away"),
    "taken_out_of_bin": mark("took out of the bin"),
    "bin_emptied": mark("emptied the bin"),
    "set_aside_deleted": mark("deleted files that were set aside"),
    "edited": mark("worked on a picture"),
    "undone": mark("undid something"),
    "redone": mark("redid something"),
    "carried": mark("carried a recipe over"),
    "version_made": mark("made a version"),
    "version_named": mark("named a version"),
    "list_changed": mark("changed a list that all share"),
    "exported": mark("exported"),
    "export_cancelled": mark("cancelled an export"),
    "exports_cleared": mark("cleared exports"),
    "downloaded": mark("downloaded"),
    "shared": mark("shared a set"),
    "share_ended": mark("ended a share"),
    "set_given": mark("gave a set to somebody"),
    "link_made": mark("made a link for a client"),
    "link_ended": mark("ended a client's link"),
    "favourite_marked": mark("marked a favourite"),
    "favourite_unmarked": mark("marked a favourite no more"),
    "commented": mark("left a note on a picture"),
    "comment_removed": mark("removed a note"),
}


@api.post("/sign-in", responses={200: Me, **_REFUSALS}, operation_id="signIn")
def sign_in(body: SignInBody) -> Response:
    """Let somebody in by a password; the answer's cookie does from then on."""
    return _let_in(people.sign_in(resources().database, body.name, body.password, client()))


@api.post("/sign-out", responses={200: Done, **_REFUSALS}, operation_id="signOut")
def sign_out() -> Response:
    """End the sign-in of this browser."""
    if g.token:
        people.sign_out(resources().database, g.token)
    response = answer(Done(count=1 if g.token else 0))
    cookies_of_app().take(response)
    return response


@api.get("/me", responses={200: Me}, operation_id="getMe")
def get_me() -> Response:
    """Who asks."""
    person = _person(current_user.person) if g.token else None
    return answer(_me(person, csrf(), known=actor() != STRANGER))


@api.post("/me/password", responses={200: Done, **_REFUSALS}, operation_id="changePassword")
def change_password(body: PasswordChange) -> Response:
    """Give the own account another password; its other sign-ins end."""
    people.change_password(resources().database, author_id() or 0, body.old, body.new, g.token)
    return answer(Done(count=1))


@api.get("/me/sign-ins", responses={200: SignIns, **_REFUSALS}, operation_id="listSignIns")
def list_sign_ins() -> Response:
    """Where the own account is signed in."""
    return answer(_sign_ins())


@api.delete(
    "/me/sign-ins/<int:sign_in_id>",
    responses={200: SignIns, **_REFUSALS},
    operation_id="endSignIn",
)
def end_sign_in(path: SignInPath) -> Response:
    """End one of the own account's."""
    people.end_sign_in(resources().database, author_id() or 0, path.sign_in_id)
    return answer(_sign_ins())


@api.get("/people", responses={200: People, **_REFUSALS}, operation_id="listPeople")
def list_people() -> Response:
    """All accounts, and the links that nobody used yet."""
    return answer(_people(people.listed(resources().database)))


@api.patch(_PERSON, responses={200: People, **_REFUSALS}, operation_id="changePerson")
def change_person(path: PersonPath, body: RoleChange) -> Response:
    """Give an account another role."""
    return answer(_people(people.change_role(resources().database, path.person_id, body.role)))


@api.delete(_PERSON, responses={200: People, **_REFUSALS}, operation_id="removePerson")
def remove_person(path: PersonPath) -> Response:
    """Remove an account; its sets, and what it did, stay."""
    return answer(_people(people.remove(resources().database, path.person_id)))


@api.post(
    f"{_PERSON}/reset", responses={201: MadeInvitation, **_REFUSALS}, operation_id="resetPerson"
)
def reset_person(path: PersonPath) -> Response:
    """A link by which somebody gives themselves another password."""
    return answer(_made(*people.invite_again(resources().database, path.person_id)), 201)


@api.post("/invitations", responses={201: MadeInvitation, **_REFUSALS}, operation_id="invite")
def invite(body: RoleChange) -> Response:
    """A link for a new account; it works once, for a week."""
    return answer(_made(*people.invite(resources().database, body.role)), 201)


@api.delete(
    "/invitations/<int:invitation_id>",
    responses={200: People, **_REFUSALS},
    operation_id="withdrawInvitation",
)
def withdraw_invitation(path: InvitationPath) -> Response:
    """Let such a link work no more."""
    people.withdraw(resources().database, path.invitation_id)
    return answer(_people(people.listed(resources().database)))


@api.get(
    f"{_INVITATION}/about",
    responses={200: InvitationOut, **_REFUSALS},
    operation_id="seeInvitation",
)
def see_invitation(path: TokenPath) -> Response:
    """What a link is for."""
    return answer(_invitation(people.invitation(resources().database, path.token)))


@api.post(f"{_INVITATION}/use", responses={201: Me, **_REFUSALS}, operation_id="acceptInvitation")
def accept_invitation(path: TokenPath, body: Accepted) -> Response:
    """Use a link: make the account, or give it the password, and let its person in."""
    found = people.accept(resources().database, path.token, body.name, body.password, client())
    return _let_in(found, 201)


@api.get("/deeds", responses={200: Deeds, **_REFUSALS}, operation_id="listDeeds")
def list_deeds(query: DeedsQuery) -> Response:
    """The audit log: who did what, the newest first."""
    found = people.deeds_of(resources().database, query.before, query.limit, query.person_id)
    return answer(Deeds(deeds=[_deed(one) for one in found]))


def deed_names() -> frozenset[str]:
    """Everything that the audit log can say."""
    return frozenset(_DEEDS)


def _let_in(found: LetIn, status: int = 200) -> Response:
    cookies = cookies_of_app()
    response = answer(_me(_person(found.person), cookies.csrf_of(found.token)), status)
    cookies.give(response, found.token)
    return response


def _me(person: PersonOut | None, csrf_token: str, known: bool = True) -> Me:
    keeper = person is None and known
    return Me(
        served=is_served(resources().settings.data),
        known=known,
        everything=keeper or (person is not None and person.role == "owner"),
        makes_sets=keeper or (person is not None and person.role != "guest"),
        person=person,
        csrf=csrf_token,
        sign_on=_sign_on(),
        shortest_password=SHORTEST,
    )


def _sign_on() -> str:
    settings = resources().settings
    return settings.oidc_label if settings.oidc_issuer else ""


def _sign_ins() -> SignIns:
    found = people.sign_ins(resources().database, author_id() or 0, g.token or "")
    return SignIns(sign_ins=[SignInOut(**vars(one)) for one in found])


def _people(found: list[Person]) -> People:
    return People(
        people=[_person(one) for one in found],
        invitations=[_invitation(one) for one in people.invitations(resources().database)],
        roles=[
            RoleOption(value=role, label=tr(label), about=tr(about))
            for role, (label, about) in _ROLES.items()
        ],
    )


def _person(found: Person) -> PersonOut:
    return PersonOut(
        id=found.id,
        name=found.name,
        role=found.role,
        role_words=tr(_ROLES[found.role][0]),
        made_at=found.made_at,
    )


def _invitation(found: InvitationLine) -> InvitationOut:
    by = {"made_by": name_words(found.made_by), "role_words": tr(_ROLES[found.role][0])}
    return InvitationOut(**{**vars(found), **by})


def _made(found: InvitationLine, token: str) -> MadeInvitation:
    return MadeInvitation(**_invitation(found).model_dump(), path=f"/invitation/{token}")


def _deed(found: Deed) -> DeedOut:
    words = tr(_DEEDS[found.what]) if found.what in _DEEDS else found.what
    return DeedOut(
        id=found.id,
        at=found.at,
        who=name_words(found.who),
        what=found.what,
        words=words,
        set_id=found.set_id,
        picture_id=found.picture_id,
        about=_about(found.facts or {}),
        facts=found.facts or {},
    )


def _about(facts: dict[str, Any]) -> str:
    """What somebody did something to, by its names as they were then."""
    pictures = facts.get("pictures")
    count = len(pictures) if isinstance(pictures, list) and "picture" not in facts else 0
    several = [tr_plural("{count} picture", "{count} pictures", count)] if count else []
    named = [facts.get(name) for name in ("picture", "set", "account", "address")]
    return ", ".join([*several, *(name for name in named if isinstance(name, str))])
