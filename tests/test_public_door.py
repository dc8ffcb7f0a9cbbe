"""What a scientist with a notebook uses: the package's public names, without Qt."""

import doctest
import inspect
import subprocess
import sys

import pytest

import zesty_lever

CASE = """{"format": "zesty-lever-case/1", "variation": "back-squat-high-bar", "load_kg": 60,
          "athlete": {"height_m": 1.78, "mass_kg": 82, "sex": "male"}}"""


def test_the_public_names_are_there_and_documented():
    """Every name of ``__all__`` loads, and everything public on it has a docstring."""
    for name in zesty_lever.__all__:
        thing = getattr(zesty_lever, name)
        if name == "__version__":
            continue
        assert inspect.getdoc(thing), name
        for key, member in vars(thing).items() if inspect.isclass(thing) else ():
            if not key.startswith("_") and (
                inspect.isfunction(member) or isinstance(member, property)
            ):
                assert inspect.getdoc(member), f"{name}.{key}"
    with pytest.raises(AttributeError, match="no attribute 'squat'"):
        zesty_lever.squat  # noqa: B018


def test_the_readme_example_works():
    """The worked example of the README, run as it stands."""
    readme = (zesty_lever_root() / "README.md").read_text(encoding="utf-8")
    example = doctest.DocTestParser().get_doctest(
        readme.split("```pycon\n")[1].split("```")[0], {}, "README", "README.md", 0
    )
    assert len(example.examples) >= 5
    assert doctest.DocTestRunner(verbose=False).run(example).failed == 0


def zesty_lever_root():
    from pathlib import Path

    return Path(zesty_lever.__file__).parents[2]


def test_one_case_from_text_to_joint_names():
    """parse_case takes text; arrays are asked for by a joint's name; both rules of errors hold."""
    result = zesty_lever.analyse(zesty_lever.parse_case(CASE))
    assert result.feasible
    assert result.solved.extension("hip_right").shape == (result.frames,)
    many = zesty_lever.analyse_many([result.case, result.case.changed(load_kg=80.0)])
    assert (many[0].solved.extension("hip_right") == result.solved.extension("hip_right")).all()
    with pytest.raises(zesty_lever.CaseError, match="load_kg"):
        zesty_lever.parse_case(CASE.replace("60", '"heavy"'))


def test_the_door_needs_no_window():
    """The core alone loads neither Qt nor the window."""
    code = (
        "import sys, zesty_lever; zesty_lever.analyse; zesty_lever.parse_case; "
        "sys.exit(any('PySide6' in name or name.startswith('zesty_lever.ui') for name in sys.modules))"
    )
    assert subprocess.run([sys.executable, "-c", code], check=False).returncode == 0
