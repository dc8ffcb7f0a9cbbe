"""What tests of measuring share: the shipped clips measured once, and their truth."""

from functools import cache
from pathlib import Path

from film import Film, demo_takes

from zesty_lever.measure.clip import Clip
from zesty_lever.measure.marks import read_marks
from zesty_lever.measure.measuring import measure
from zesty_lever.measure.track import track
from zesty_lever.tables import data_path

CLIPS = Path(str(data_path("demo", "clips")))


@cache
def opened(name):
    return Clip(CLIPS / f"{name}.mp4")


@cache
def marked(name):
    return read_marks(CLIPS / f"{name}.marks.json")


@cache
def tracked(name):
    """The shipped marks followed through their clip."""
    return track(opened(name), marked(name).marks)


def measured(name, **changes):
    """A shipped clip measured, with some of its marks' fields changed."""
    return measure(opened(name), marked(name).changed(**changes), tracks=tracked(name))


@cache
def take(name):
    """How a shipped clip was filmed."""
    return demo_takes()[name]


@cache
def film(name):
    """The film of a shipped clip, with its chances drawn."""
    return Film(take(name))
