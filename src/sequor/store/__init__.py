"""What is kept: sets, pictures, their ledgers and exports in MariaDB, and the originals as
files.
"""
