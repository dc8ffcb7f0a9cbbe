"""What a study came to: how far it is, and its results by group, column by column."""

from __future__ import annotations

from collections.abc import Iterator, Sequence
from typing import Any

import numpy as np
from numpy.typing import NDArray

from zesty_lever.frozen import dataclass
from zesty_lever.physics.vectors import Array
from zesty_lever.problems import CaseError
from zesty_lever.study.columns import RESULTS
from zesty_lever.study.folder import StudyFolder
from zesty_lever.study.inputs import parquet

MOST_GROUPS = 10_000
SHARES = (5.0, 50.0, 95.0)


@dataclass(frozen=True)
class Status:
    """How far a study is. ``rate`` is in cases a second of the parts that were written, None before there are two."""

    rows: int
    parts: int
    done: int
    failed: dict[int, str]
    rate: float | None

    @property
    def missing(self) -> int:
        """Parts that are not there."""
        return self.parts - self.done

    def left_s(self, part_rows: int) -> float | None:
        """About how long what is missing takes at that rate, s."""
        return None if not self.rate else self.missing * part_rows / self.rate


def status_of(folder: StudyFolder) -> Status:
    """How far a study is. Raises `CaseError`."""
    told = folder.told()
    paths = folder.done_paths()
    times = sorted(path.stat().st_mtime for path in paths)
    rate = None
    if len(times) > 1 and times[-1] > times[0]:
        rate = (len(times) - 1) * part_rows_of(told) / (times[-1] - times[0])
    return Status(told["rows"], told["parts"], len(paths), folder.failures(), rate)


def part_rows_of(told: dict[str, Any]) -> int:
    """Rows of a part."""
    return int(told["study"].get("part_rows", 4096))


@dataclass(frozen=True)
class Group:
    """One group: its values, cases, those that can be done, problems by code, results by column.

    A result is (mean, 5th, 50th, 95th percentile) of what can be done, None where nothing can.
    """

    values: tuple[Any, ...]
    cases: int
    feasible: int
    problems: dict[str, int]
    results: dict[str, tuple[float, ...] | None]


def summary_of(folder: StudyFolder, by: Sequence[str] = ()) -> list[Group]:
    """Results by group of equal values in some columns. Raises `CaseError`.

    One column is held at a time: 4 or 8 bytes a row.
    """
    told = folder.told()
    for column in by:
        if column not in told["columns"]:
            raise CaseError(
                "unknown-key",
                f"--by {column} is no column; known are: {', '.join(told['columns'])}",
                key="--by",
                value=column,
            )
    paths = folder.done_paths()
    if not paths:
        raise CaseError("empty-file", f"{folder.path} has no parts yet", key="DIR")
    codes, values = _groups(paths, by)
    counts = np.bincount(codes, minlength=len(values))
    able = _column(paths, "feasible").astype(bool)
    feasible = np.bincount(codes[able], minlength=len(values))
    problems = _problems(paths, codes, len(values))
    order = np.argsort(codes, kind="stable")
    edges = np.concatenate([[0], np.cumsum(counts)])
    results: list[dict[str, tuple[float, ...] | None]] = [{} for _ in values]
    for name in RESULTS:
        numbers = _column(paths, name)[order]
        for row, found in enumerate(results):
            found[name] = _told(numbers[edges[row] : edges[row + 1]])
    return [
        Group(value, int(counts[i]), int(feasible[i]), problems[i], results[i])
        for i, value in enumerate(values)
    ]


def _told(values: Array) -> tuple[float, ...] | None:
    known = values[~np.isnan(values)].astype(float)
    if not len(known):
        return None
    return (float(known.mean()), *(float(v) for v in np.percentile(known, SHARES)))


def _pieces(paths: Sequence[Any], column: str) -> Iterator[Any]:
    pq = parquet()
    for path in paths:
        yield pq.read_table(path, columns=[column])[column]


def _column(paths: Sequence[Any], column: str) -> Array:
    """A column of numbers (or flags) of all parts; what is empty is not a number here."""
    return np.concatenate([piece.to_numpy() for piece in _pieces(paths, column)])


def _groups(
    paths: Sequence[Any], by: Sequence[str]
) -> tuple[NDArray[np.intp], list[tuple[Any, ...]]]:
    """Number of each row's group, and the values of the groups in their order."""
    rows = sum(len(piece) for piece in _pieces(paths, "row"))
    codes = np.zeros(rows, dtype=np.intp)
    values: list[tuple[Any, ...]] = [()]
    for column in by:
        known: dict[Any, int] = {}
        own = np.empty(rows, dtype=np.intp)
        at = 0
        for piece in _pieces(paths, column):
            words = piece.dictionary_encode().combine_chunks()
            for value in [*words.dictionary.to_pylist(), None]:
                known.setdefault(value, len(known))
            if len(known) > MOST_GROUPS:
                raise CaseError(
                    "out-of-range",
                    f"--by {column} gives more than {MOST_GROUPS} groups; it is no column to group by",
                    key="--by",
                    value=column,
                )
            table = np.array([known[v] for v in [*words.dictionary.to_pylist(), None]])
            index = words.indices.fill_null(len(words.dictionary)).to_numpy()
            own[at : at + len(piece)] = table[index]
            at += len(piece)
        listed = list(known)
        joint, codes = np.unique(codes * len(listed) + own, return_inverse=True)
        values = [(*values[j // len(listed)], listed[j % len(listed)]) for j in joint.tolist()]
    if len(values) > MOST_GROUPS:
        raise CaseError("out-of-range", f"--by gives {len(values)} groups; at most {MOST_GROUPS}")
    return codes, values


def _problems(paths: Sequence[Any], codes: NDArray[np.intp], count: int) -> list[dict[str, int]]:
    """How often each problem comes up in every group, the most frequent first."""
    found: list[dict[str, int]] = [{} for _ in range(count)]
    at = 0
    for piece in _pieces(paths, "problem"):
        words = piece.dictionary_encode().combine_chunks()
        own = codes[at : at + len(piece)]
        at += len(piece)
        index = words.indices.fill_null(-1).to_numpy()
        for number, code in enumerate(words.dictionary.to_pylist()):
            groups, times = np.unique(own[index == number], return_counts=True)
            for group, many in zip(groups.tolist(), times.tolist(), strict=True):
                found[group][code] = found[group].get(code, 0) + many
    return [dict(sorted(one.items(), key=lambda item: (-item[1], item[0]))) for one in found]
