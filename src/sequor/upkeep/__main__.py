"""``python -m sequor.upkeep`` is what bin/sequor runs for these."""

from sequor.upkeep.command import main

main()
