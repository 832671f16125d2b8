"""``bin/sequor backup``, ``restore`` and ``verify``: what is done with all data at once."""
