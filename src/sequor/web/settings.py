"""Configuration through environment variables, with defaults that work (listed in the README)."""

import os
from collections.abc import Mapping
from dataclasses import dataclass
from pathlib import Path

from sequor.core.errors import UnusableInput


@dataclass(frozen=True)
class Settings:
    """Where things are and how much is allowed."""

    port: int = 8700
    db_port: int = 8701
    data: Path = Path("var")
    demo: Path | None = None
    frontend: Path = Path("frontend/dist")
    max_megapixels: float = 300.0
    max_upload_mb: int = 1024
    log_level: str = "INFO"

    @staticmethod
    def from_environment(root: Path, environment: Mapping[str, str] = os.environ) -> "Settings":
        """Read ``SEQUOR_*``; a value that cannot be used is an error in one sentence."""
        default = Settings()

        def number(name: str, value: float, lowest: float, highest: float) -> float:
            text = environment.get(name, str(value))
            try:
                found = float(text)
            except ValueError:
                found = float("nan")
            if not lowest <= found <= highest:
                raise UnusableInput(f"{name} is “{text}”; it must be a number from {lowest:g} to {highest:g}.")
            return found

        return Settings(
            port=int(number("SEQUOR_PORT", default.port, 1, 65535)),
            db_port=int(number("SEQUOR_DB_PORT", default.db_port, 1, 65535)),
            data=Path(environment.get("SEQUOR_DATA", root / "var")).absolute(),
            demo=Path(environment.get("SEQUOR_DEMO", root / "demo")),
            frontend=root / "frontend" / "dist",
            max_megapixels=number("SEQUOR_MAX_MEGAPIXELS", default.max_megapixels, 0.01, 10_000),
            max_upload_mb=int(number("SEQUOR_MAX_UPLOAD_MB", default.max_upload_mb, 1, 100_000)),
            log_level=environment.get("SEQUOR_LOG_LEVEL", default.log_level).upper(),
        )
