"""The running application under load, killed again and again: nothing acknowledged is lost.

The long version, of 60 kills, is in tests/bench; how soon it is back depends on the machine, and is
measured there.
"""

from pathlib import Path

from tests.steadiness.killing import Killed

KILLS = ("server", "worker", "database", "supervisor", "all")


def test_nothing_acknowledged_is_lost(tmp_path: Path) -> None:
    with Killed(tmp_path / "var", seed=1) as trial:
        for victim in KILLS:
            trial.kill(victim)
        trial.check()
    assert trial.kept > 10
    assert trial.exported > 0
    assert len(trial.away_s) == len(KILLS)  # it was ready again, and kept things, after each
