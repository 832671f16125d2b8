"""What is kept: sets, pictures, their ledgers and exports in MariaDB.

And the originals as files.
"""
