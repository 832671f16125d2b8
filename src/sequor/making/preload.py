"""Imported once by the process that workers are forked off: everything that tasks need is loaded
in it, so that a worker is there at once.
"""

from sequor.making import exports, finishing, fitting, intake, previews, verify
from sequor.making.warm_up import compiled_before, warm_up

__all__ = ["exports", "finishing", "fitting", "intake", "previews", "verify"]

if compiled_before():
    warm_up()
