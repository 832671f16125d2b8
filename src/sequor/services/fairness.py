"""What each person may take of what all share: space for originals, exports that wait.

The workers are shared out by whose tasks they are (`work.turns`), and what is in a hand goes first.
Where there are no accounts nothing is limited.
"""

from sequor.core.errors import UnusableInput
from sequor.core.language import tr
from sequor.services.resources import Resources
from sequor.store import library, people
from sequor.store.acting import author_id, seeing_everything

_MB = 2**20


def check_exports(resources: Resources, more: int) -> None:
    """Refuse more exports than may wait of one person.

    Raises
    ------
    UnusableInput
    """
    person_id, most = author_id(), resources.settings.exports_each
    if person_id is None:
        return
    with resources.database.reading() as session, seeing_everything():
        waiting = people.exports_waiting(session, person_id)
    if waiting + more > most:
        raise UnusableInput(
            tr(
                "{waiting} of your exports wait already, and at most {most} may; nothing was "
                "begun. Ask again when some are done.",
                waiting=waiting,
                most=most,
            )
        )


def check_space(resources: Resources, more: int, set_id: int | None = None) -> None:
    """Refuse files for which somebody has no space left; two that come at the same moment may both
    be taken in yet.

    Parameters
    ----------
    more : int
        Bytes of the files.
    set_id : int, optional
        The set that they go into, whose owner is asked about; without it who acts is.

    Raises
    ------
    UnusableInput
    """
    most = resources.settings.space_each_mb * _MB
    if not most:
        return
    owner_id = author_id()
    with resources.database.reading() as session, seeing_everything():
        if set_id is not None:
            owner_id = library.get_set(session, set_id).owner_id
        taken = 0 if owner_id is None else people.space_of(session, owner_id)
    if owner_id is not None and taken + more > most:
        raise UnusableInput(
            tr(
                "The originals of who owns this set take {taken:,.0f} MB of the {most:,.0f} MB "
                "that each person has; nothing was stored. Empty the bin, or ask who looks after "
                "Sequor for more.",
                taken=taken / _MB,
                most=most / _MB,
            )
        )
