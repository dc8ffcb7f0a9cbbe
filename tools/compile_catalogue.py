"""Writes the compiled copy of the catalogue; a test says when it is due."""

from __future__ import annotations

from pathlib import Path

from zesty_lever.exercises import catalogue

HERE = Path(catalogue.__file__).parent.parent / "data" / "catalogue" / catalogue.COMPILED

if __name__ == "__main__":
    HERE.write_bytes(catalogue.compiled())
