"""Accounts from the machine itself: ``bin/sequor user add|reset|remove|list``."""

import os
import sys
from collections.abc import Iterator
from contextlib import AbstractContextManager, contextmanager
from typing import get_args

import click

from sequor.core.errors import UnusableInput
from sequor.core.language import mark, tr
from sequor.services import people
from sequor.store import people as accounts
from sequor.store.acting import Actor, PresentDeed, Role, acting
from sequor.store.database import Database
from sequor.store.files import FileStore
from sequor.upkeep.here import database_of, settings_of_here

_ROLES = click.Choice(get_args(Role))
_FROM_INPUT = click.option(
    "--password-stdin",
    "from_input",
    is_flag=True,
    help=mark("take the password from the first line of the input"),
)


@click.group(help=mark("Accounts of the people who may use this Sequor over a network."))
def user() -> None:
    """All of them."""


@user.command(help=mark("Make an account named NAME; the first one is an owner's."))
@click.argument("name")
@click.option("--role", type=_ROLES, default="member", show_default=True)
@_FROM_INPUT
def add(name: str, role: Role, from_input: bool) -> None:
    """Add."""
    with _accounts(make=True) as (database, files):
        with database.reading() as session:
            if role != "owner" and not accounts.any_owner(session):
                raise UnusableInput(tr("The first account is an owner's: say --role owner."))
        with _doing("account_made", name):
            made = people.create(database, files, name, role, _password(from_input))
    click.echo(tr("{name} has an account now ({role}).", name=made.name, role=made.role))


@user.command(help=mark("Give the account NAME another password; it is signed out everywhere."))
@click.argument("name")
@_FROM_INPUT
def reset(name: str, from_input: bool) -> None:
    """Reset."""
    with _accounts() as (database, _), _doing("password_changed", name):
        people.reset(database, name, _password(from_input))
    click.echo(tr("{name} has another password now.", name=name))


@user.command(help=mark("Remove the account NAME; its sets, and what it did, stay."))
@click.argument("name")
def remove(name: str) -> None:
    """Remove."""
    with _accounts() as (database, _):
        with database.reading() as session:
            number = people.named(session, name).id
        with _doing("account_removed", name):
            people.remove(database, number)
    click.echo(tr("{name} has no account any more.", name=name))


@user.command("list", help=mark("List the accounts and their roles."))
def list_all() -> None:
    """List."""
    with _accounts() as (database, _):
        for one in people.listed(database):
            click.echo(f"{one.name}\t{one.role}")


@contextmanager
def _accounts(make: bool = False) -> Iterator[tuple[Database, FileStore]]:
    settings = settings_of_here()
    os.umask(0o077)
    with database_of(settings, make) as engine:
        files = FileStore(settings.data, settings.reserve_mb)
        yield Database(engine, files.space), files


def _doing(what: str, name: str) -> AbstractContextManager[None]:
    """What is done to an account, for the audit log."""
    deed = PresentDeed(what, facts={"account": name})
    return acting(Actor(people.MACHINE, role="owner", deed=deed))


def _password(from_input: bool) -> str:
    if from_input:
        return sys.stdin.readline().rstrip("\r\n")
    given: str = click.prompt(tr("Password"), hide_input=True, confirmation_prompt=True, err=True)
    return given
