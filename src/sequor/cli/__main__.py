"""``python -m sequor.cli`` is what bin/sequor runs."""

from sequor.cli.command import main

main()
