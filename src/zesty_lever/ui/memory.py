"""What the window remembers between runs."""

from __future__ import annotations

import json
from pathlib import Path
from typing import Any


class WindowMemory:
    """What the window remembers between runs: place, screen, moment, theme, cautions seen. None: forgets."""

    def __init__(self, path: Path | None) -> None:
        self._path = path
        self.values: dict[str, Any] = {}
        if path is not None:
            try:
                read = json.loads(path.read_text(encoding="utf-8"))
                self.values = read if isinstance(read, dict) else {}
            except (OSError, ValueError, RecursionError):
                # A spoilt memory costs the window's place, nothing else.
                self.values = {}

    def keep(self, **values: Any) -> None:
        """Remember values."""
        from zesty_lever.io.json_files import replacing, write_json

        self.values.update(values)
        if self._path is not None:
            try:
                self._path.parent.mkdir(parents=True, exist_ok=True)
                with replacing(self._path) as file:
                    write_json(self.values, file)
            except OSError:
                # Remembering is a convenience; a full or read-only disk must not stop work.
                return
