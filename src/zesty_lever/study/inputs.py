"""Where a study's rows come from: a design that makes any of them, or a Parquet file of cases."""

from __future__ import annotations

import hashlib
import math
import threading
from collections.abc import Iterator, Mapping, Sequence
from functools import cached_property
from pathlib import Path
from typing import Any, Protocol

import numpy as np

from zesty_lever.frozen import dataclass
from zesty_lever.problems import CaseError
from zesty_lever.study.document import MOST_ROWS, Study
from zesty_lever.study.keys import check_key, is_text
from zesty_lever.study.sampling import Rows, unit_samples

# Values of varied keys by flat name, a list a key; None is not given.
Values = dict[str, list[Any]]


class Inputs(Protocol):
    """The rows of a study."""

    @property
    def rows(self) -> int:
        """How many there are. Raises `CaseError`."""

    @property
    def keys(self) -> tuple[str, ...]:
        """Varied keys, in order."""

    @property
    def digest(self) -> str:
        """What tells one file of cases from another; empty for a design."""

    def values(self, rows: Rows) -> Values:
        """Values of the varied keys at some rows, which rise."""

    def ends(self) -> Iterator[dict[str, Any]]:
        """Values that have to be legal for all to be: every word, and both ends of every number."""


@dataclass(frozen=True)
class DesignInputs:
    """Rows of a design: cell by cell of the grid, the same samples in each."""

    study: Study
    digest: str = ""

    @property
    def keys(self) -> tuple[str, ...]:
        """Varied keys, in the order of the file."""
        return tuple(self.study.vary)

    @property
    def cells(self) -> int:
        """Cells of the grid."""
        return math.prod(len(values) for values in self.study.grid.values())

    @property
    def rows(self) -> int:
        """Rows of the whole study. Raises `CaseError` where they are too many to number."""
        count = self.cells * self.study.samples
        if count > MOST_ROWS:
            raise CaseError(
                "out-of-range",
                f"the study has {count} rows; at most {MOST_ROWS} can be numbered",
                key="samples",
                value=count,
            )
        return count

    def values(self, rows: Rows) -> Values:
        """Values of the varied keys at some rows. Raises `CaseError`."""
        study = self.study
        cells, samples = np.divmod(rows, study.samples)
        found: dict[str, list[Any]] = {}
        every = 1
        for key, values in reversed(study.grid.items()):
            at = (cells // every) % len(values)
            found[key] = [values[i] for i in at.tolist()]
            every *= len(values)
        shares = (
            unit_samples(study.sampling, study.seed or 0, study.drawn, study.samples, samples)
            if study.drawn
            else {}
        )
        for key, share in shares.items():
            low, high = study.vary[key].range or (0.0, 0.0)
            found[key] = np.minimum(low + share * (high - low), high).tolist()
        return {key: found[key] for key in self.keys}

    def ends(self) -> Iterator[dict[str, Any]]:
        """One row after another with one key at an end, the others at their first value or middle."""
        usual: dict[str, Any] = {}
        for key, factor in self.study.vary.items():
            usual[key] = factor.values[0] if factor.values else sum(factor.range or ()) / 2
        for name in self.study.grid.get("variation", (usual.get("variation"),)):
            base = {**usual, **({"variation": name} if name is not None else {})}
            for key, factor in self.study.vary.items():
                if key != "variation":
                    for value in factor.values or factor.range or ():
                        yield {**base, key: value}
            yield base


# One open file is read by one thread at a time: two at once get each other's pages, or end the process.
_READING = threading.Lock()


@dataclass(frozen=True)
class FileInputs:
    """Rows of a Parquet file with flat columns."""

    path: Path

    @cached_property
    def _file(self) -> Any:
        pq = parquet()
        try:
            return pq.ParquetFile(self.path)
        except (OSError, ValueError) as error:
            raise CaseError(
                "not-parquet",
                f"cases: {self.path.name} can't be read as Parquet: {str(error).splitlines()[0]}",
                key="cases",
            ) from None

    @property
    def keys(self) -> tuple[str, ...]:
        """Names of the columns."""
        return tuple(self._file.schema_arrow.names)

    @property
    def rows(self) -> int:
        """Rows of the file."""
        return int(self._file.metadata.num_rows)

    @cached_property
    def digest(self) -> str:
        """Hash of the file's bytes."""
        found = hashlib.sha256()
        with self.path.open("rb") as file:
            while block := file.read(2**20):
                found.update(block)
        return found.hexdigest()

    def values(self, rows: Rows) -> Values:
        """Values at some rows, which rise."""
        meta = self._file.metadata
        first = np.cumsum([0, *(meta.row_group(i).num_rows for i in range(meta.num_row_groups))])
        groups = np.unique(np.searchsorted(first, rows, side="right") - 1)
        found: Values = {key: [] for key in self.keys}
        for group in groups.tolist():
            own = rows[(rows >= first[group]) & (rows < first[group + 1])] - first[group]
            with _READING:
                table = self._file.read_row_group(group).take(own)
            for key in self.keys:
                found[key] += [_plain(key, v) for v in table[key].to_pylist()]
        return found

    def ends(self) -> Iterator[dict[str, Any]]:
        """Rows of the file at which a column is smallest or largest or has another word, by variation."""
        kept: dict[tuple[Any, ...], dict[str, Any]] = {}
        for batch in self._file.iter_batches(batch_size=65_536):
            _note_ends(batch, kept)
        yield from kept.values()


def _note_ends(batch: Any, kept: dict[tuple[Any, ...], dict[str, Any]]) -> None:
    """Keep rows of a batch that go beyond those kept for a variation and a column."""
    columns = {key: batch.column(key).to_pylist() for key in batch.schema.names}
    names = columns.get("variation") or [None] * batch.num_rows

    def row_at(index: int) -> dict[str, Any]:
        return {key: _plain(key, values[index]) for key, values in columns.items()}

    for key, values in columns.items():
        for index, (name, value) in enumerate(zip(names, values, strict=True)):
            if value is None:
                continue
            if is_text(key) or isinstance(value, str):
                kept.setdefault((name, key, value), {**row_at(index)})
                continue
            for end, sign in (("low", -1.0), ("high", 1.0)):
                known = kept.get((name, key, end))
                # What is no number at all is kept too: it is refused where it is read.
                if known is None or not sign * float(value) <= sign * float(known[key]):
                    kept[name, key, end] = row_at(index)


def _plain(key: str, value: Any) -> Any:
    """A cell as a case takes it: whole numbers of a numeric column are numbers like others."""
    if isinstance(value, int) and not isinstance(value, bool) and not is_text(key):
        return float(value)
    return value


def parquet() -> Any:
    """The library that reads and writes Parquet. Raises `CaseError` where the extra is missing."""
    try:
        import pyarrow.parquet as pq
    except ImportError:
        raise CaseError(
            "needs-extra", "studies need Parquet: install zesty-lever[study]", key="study"
        ) from None
    return pq


def inputs_of(study: Study) -> Inputs:
    """The rows of a study; its keys are checked. Raises `CaseError`."""
    found: Inputs
    found = FileInputs(Path(study.cases)) if study.cases else DesignInputs(study)
    if not found.rows:
        raise CaseError("empty-file", "the study has no rows", key="cases")
    return found


def check_keys(keys: Sequence[str], variations: set[str]) -> None:
    """Whether all keys can be varied. Raises `CaseError`."""
    for key in keys:
        check_key(key, variations)


def at(values: Mapping[str, list[Any]], index: int) -> dict[str, Any]:
    """One row of some values."""
    return {key: column[index] for key, column in values.items()}


@dataclass(frozen=True)
class ShippedInputs:
    """Rows of a file that lies elsewhere: their values come with each part."""

    rows: int
    keys: tuple[str, ...]
    digest: str = ""

    def values(self, rows: Rows) -> Values:
        """Not here. Raises `LookupError`."""
        raise LookupError(len(rows))

    def ends(self) -> Iterator[dict[str, Any]]:
        """None are known here."""
        return iter(())
