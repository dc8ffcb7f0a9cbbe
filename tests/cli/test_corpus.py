"""A corpus of spoilt case files with fixed seeds: every line answered, nothing crashes. Slow: `make test-slow`."""

import json
import random

import pytest

from builders import MALE
from zesty_lever.__main__ import main
from zesty_lever.exercises.catalogue import catalogue

LINES, PARTS = 1500, 4
ODD = (
    None,
    True,
    -1,
    0,
    1e308,
    -1e-300,
    10**400,
    float("nan"),
    float("inf"),
    "",
    "balance",
    "\ud800",
    "<img src=x>",
    "=1+1",
    "\u0000",
    [],
    [[]],
    {},
    {"a": {"b": {}}},
    "x" * 3000,
)


def base_case(chance):
    entry = chance.choice(list(catalogue().values()))
    settings = {
        key: chance.uniform(s.low, s.high)
        for key, s in entry.settings.items()
        if chance.random() < 0.2
    }
    return {
        "format": "zesty-lever-case/1",
        "athlete": {**MALE, "limits_deg": {"hip_flexion": 118}},
        "variation": entry.id,
        "settings": settings,
        "frames": chance.choice(["none", "bottom"]),
        "mode": chance.choice(["static", "dynamic"]),
        "tempo_s": [2, 0, 1, 0],
        "loads": [{"kind": "mass", "name": "vest", "place": "trunk", "mass_kg": 5}],
    }


def spoil(data, chance):
    """One value somewhere in the tree replaced, taken away, or put under a wrong name."""
    here = data
    while True:
        keys = list(here) if isinstance(here, dict) else list(range(len(here)))
        if not keys:
            return
        key = chance.choice(keys)
        if isinstance(here[key], dict | list) and here[key] and chance.random() < 0.6:
            here = here[key]
            continue
        way = chance.random()
        if way < 0.6:
            here[key] = chance.choice(ODD)
        elif way < 0.8 or isinstance(here, list):
            del here[key]
        else:
            here[f"{key}x"] = here.pop(key)
        return


def spoilt_line(chance):
    """A case as text with up to three faults in its values and now and then some in its bytes."""
    data = base_case(chance)
    for _ in range(chance.randrange(4)):
        spoil(data, chance)
    text = json.dumps(data)
    for _ in range(chance.choice([0, 0, 0, 1, 3])):
        at = chance.randrange(len(text))
        text = text[:at] + chance.choice(["", "}", "[", '"', "\u20ac", "9"]) + text[at + 1 :]
    return text.replace("\n", " ")


@pytest.mark.slow
@pytest.mark.parametrize("part", range(PARTS))
def test_every_line_of_a_spoilt_corpus_is_answered(tmp_path, capsys, part):
    """One answer a line, in their order, as plain JSON without a NaN; errors of at most 500 characters that
    name a code; some lines still solve."""
    chance = random.Random(1000 + part)
    lines = [spoilt_line(chance) for _ in range(LINES)]
    source, target = tmp_path / "in.jsonl", tmp_path / "out.jsonl"
    source.write_bytes("\n".join(lines).encode("utf-8", "surrogatepass") + b"\n")
    status = main(["solve", str(source), "--out", str(target)])
    assert status == 1
    answers = target.read_text(encoding="utf-8").splitlines()
    assert len(answers) == len(lines)
    solved = 0
    for answer in answers:
        found = json.loads(answer, parse_constant=lambda word: pytest.fail(f"{word} in a result"))
        error = found.get("error")
        solved += error is None
        if error is not None:
            assert error["code"]
            assert 0 < len(error["text"]) <= 500
            assert error["text"].isprintable()
    assert solved > LINES // 20
    assert all(len(line) < 600 for line in capsys.readouterr().err.splitlines())
