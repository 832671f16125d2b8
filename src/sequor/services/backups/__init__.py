"""Backups: the database and the files, together, while everything runs; and back again.

A backup is a folder of generations, each complete in itself and named by its time:

    20261129-031500-000000/    backup.json, database/, originals/, exports/

Files that did not change are hard links to those of the generation before, so that a generation
costs what is new. Every file is known by its SHA-256, which is compared with what is in the data
folder and with what is in the backup, each time; of a bad one the good copy is kept, and it is
named. A generation is written under another name and renamed at its end.
"""

from sequor.services.backups.generations import (
    Generation,
    generations,
    good_copy,
    read_backup,
    recorded_hash,
)
from sequor.services.backups.report import BackupReport, Progress
from sequor.services.backups.restoring import restore
from sequor.services.backups.writing import LAST, Retention, back_up

__all__ = [
    "LAST",
    "BackupReport",
    "Generation",
    "Progress",
    "Retention",
    "back_up",
    "generations",
    "good_copy",
    "read_backup",
    "recorded_hash",
    "restore",
]
