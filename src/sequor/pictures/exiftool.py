"""The one ExifTool process that all metadata go through."""

import atexit
import threading
import warnings
from pathlib import Path

import exiftool

from sequor.core.errors import UnusableInput
from sequor.core.language import tr

_CONFIG = Path(__file__).with_name("exiftool.config")


class Process:
    """The one ExifTool process, started when it is first needed, and anew when it has ended.

    It is told by the kernel to end with the thread that started it, so that none is left behind.
    """

    def __init__(self) -> None:
        self._lock = threading.Lock()
        self._tool: exiftool.ExifTool | None = None

    def execute(self, *arguments: str) -> tuple[int, str, str]:
        """Its status, its answer, and what it says on standard error."""
        with self._lock:
            try:
                tool = self._running()
                answer = str(tool.execute(*arguments))
                return int(tool.last_status), answer, str(tool.last_stderr).strip()
            except FileNotFoundError as problem:
                raise UnusableInput(
                    tr(
                        "ExifTool, which knows all metadata, is not installed: the Debian package "
                        "libimage-exiftool-perl is missing."
                    )
                ) from problem
            except (OSError, exiftool.exceptions.ExifToolException) as problem:
                raise UnusableInput(
                    tr("ExifTool stopped while it worked on metadata; try it again.")
                ) from problem

    def stop(self) -> None:
        """Let it end."""
        if self._tool is not None and self._alive(self._tool):
            self._tool.terminate()
        self._tool = None

    def _running(self) -> exiftool.ExifTool:
        if self._tool is None or not self._alive(self._tool):
            self._tool = exiftool.ExifTool(
                common_args=[], config_file=str(_CONFIG), encoding="utf-8"
            )
            self._tool.run()
        return self._tool

    @staticmethod
    def _alive(tool: exiftool.ExifTool) -> bool:
        with warnings.catch_warnings():
            warnings.simplefilter("ignore")  # one that has ended is started anew
            return bool(tool.running)


PROCESS = Process()
atexit.register(PROCESS.stop)
