"""``python -m sequor``: what `bin/start` runs.

By this name, and with nothing imported before it is run: worker processes import the program's
main module again, but not one that is called ``__main__``.
"""

import sys

INTERRUPTED = 130
"""Exit status of what Ctrl+C ended before it had begun (128 and the signal's number)."""

if __name__ == "__main__":
    try:
        if "--watched-by" in sys.argv:
            from sequor.serve import main
        else:
            from sequor.supervise import main
        main()
    except KeyboardInterrupt:
        sys.exit(INTERRUPTED)
