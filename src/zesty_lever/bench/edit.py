"""What an edit of the bench is: a pure function with a name for the history."""

from __future__ import annotations

from collections.abc import Callable
from typing import Concatenate, Generic, ParamSpec

from zesty_lever.bench.model import Bench
from zesty_lever.frozen import dataclass

P = ParamSpec("P")


class Refused(Exception):  # noqa: N818 (no error of the program: the bench says no)
    """The bench does not take an edit; the text says why."""


@dataclass(frozen=True)
class Edit(Generic[P]):
    """One kind of edit: what it makes of a bench, and how the history calls it."""

    make: Callable[Concatenate[Bench, P], Bench]
    label: Callable[..., str] | str
    # Whether a held key makes one step of history of many.
    merges: bool = False

    def __call__(self, bench: Bench, *args: P.args, **kwargs: P.kwargs) -> Bench:
        """The next bench."""
        return self.make(bench, *args, **kwargs)

    def name(self, bench: Bench, *args: P.args, **kwargs: P.kwargs) -> str:
        """How the history calls it."""
        label = self.label
        return label if isinstance(label, str) else label(bench, *args, **kwargs)


@dataclass(frozen=True)
class edit:  # noqa: N801 (a decorator)
    """Make a function an edit with a name: words, or what gives them from the edit's arguments."""

    label: Callable[..., str] | str
    merges: bool = False

    def __call__(self, make: Callable[Concatenate[Bench, P], Bench]) -> Edit[P]:
        """The edit."""
        return Edit(make, self.label, self.merges)
