"""``python -m sequor.cli`` is what bin/sequor runs."""

from sequor.cli.main import main

main()
