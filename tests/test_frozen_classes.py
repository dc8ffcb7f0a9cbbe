"""Our frozen dataclasses are dataclasses to everybody, only cheaper to define."""

from __future__ import annotations

import copy
import dataclasses
import pickle
from dataclasses import field
from functools import cached_property
from typing import Any, ClassVar

import pytest

from zesty_lever.frozen import dataclass, later


@dataclass(frozen=True)
class Bar:
    length_m: float
    name: str = "bar"
    marks: list[float] = field(default_factory=list)
    KIND: ClassVar[str] = "long"

    @cached_property
    def half_m(self) -> float:
        return self.length_m / 2


@dataclass(frozen=True)
class Loaded(Bar):
    mass_kg: float = 20.0

    def __post_init__(self) -> None:
        if self.mass_kg < 0:
            raise ValueError(self.mass_kg)


@dataclasses.dataclass(frozen=True)
class Theirs:
    length_m: float
    name: str = "bar"
    marks: list[float] = field(default_factory=list)


def test_they_are_made_by_place_and_by_name_with_defaults_of_their_own():
    one, other = Bar(2.2), Bar(length_m=2.2)
    assert one == other and one.marks is not other.marks and one.name == Bar.name == "bar"
    assert Loaded(2.2, "hex", [], 25.0).mass_kg == 25.0
    assert Loaded(2.2) != Bar(2.2)
    with pytest.raises(TypeError, match="length_m"):
        Bar()
    with pytest.raises(TypeError, match="colour"):
        Bar(2.2, colour="red")
    with pytest.raises(ValueError, match="-1"):
        Loaded(2.2, mass_kg=-1)


def test_they_can_t_be_changed_and_keep_what_they_work_out():
    one = Bar(2.2)
    for change in (lambda: setattr(one, "name", "b"), lambda: delattr(one, "name")):
        with pytest.raises(dataclasses.FrozenInstanceError, match="name"):
            change()
    assert one.half_m == 1.1 and "half_m" in vars(one)
    assert one == Bar(2.2)


def test_the_library_takes_them():
    one = Loaded(2.2, mass_kg=15.0)
    assert dataclasses.is_dataclass(one)
    assert [f.name for f in dataclasses.fields(one)] == ["length_m", "name", "marks", "mass_kg"]
    assert dataclasses.replace(one, mass_kg=20.0) == Loaded(2.2)
    assert dataclasses.asdict(one)["mass_kg"] == 15.0
    assert pickle.loads(pickle.dumps(one)) == copy.deepcopy(one) == one
    assert repr(Bar(2.2)) == repr(Theirs(2.2)).replace("Theirs", "Bar")


def test_those_of_plain_values_can_be_keys():
    @dataclass(frozen=True)
    class Key:
        name: str
        number: int = 3

    known: dict[Any, int] = {Key("a"): 1}
    assert known[Key("a", 3)] == 1 and Key("b") not in known


def test_a_field_may_have_any_name():
    """Names that the written ``__init__`` might use for itself."""

    @dataclass(frozen=True)
    class Odd:
        own: int
        made: int = 2
        given: int = 3
        kind: int = 4

    assert (Odd(1).own, Odd(1).made, Odd(1).given, Odd(1).kind) == (1, 2, 3, 4)
    assert isinstance(Odd(1).own, int)


def test_fields_may_be_left_for_later():
    asked: list[str] = []

    def make(name: str) -> Any:
        asked.append(name)
        return {"name": "late", "marks": [1.0], "length_m": 2.0}[name]

    one = later(Bar, make, length_m=2.2)
    assert isinstance(one, Bar) and dataclasses.is_dataclass(one) and asked == []
    assert one.length_m == 2.2 and one.half_m == 1.1 and asked == []
    # One with a default is made all the same, and each is made once.
    assert one.name == one.name == "late" and asked == ["name"]
    whole = dataclasses.replace(one, length_m=3.0)
    assert (whole.length_m, whole.name, whole.marks) == (3.0, "late", [1.0])
    assert asked == ["name", "marks"] and repr(one) == repr(Bar(2.2, "late", [1.0]))
    with pytest.raises(dataclasses.FrozenInstanceError, match="name"):
        one.name = "b"  # type: ignore[misc]
