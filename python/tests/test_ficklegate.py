# SPDX-License-Identifier: MIT
"""The module steps the same engine: every case of the language comes out as it stands there."""

import csv
import decimal
import io
import pathlib
import re

import pytest

import ficklegate

ROOT = pathlib.Path(__file__).parents[2]
CASES = sorted((ROOT / "tests/language/cases").glob("*.case"))
BEEHIVE = ROOT / "examples/beehive/beehive.gate"


def sections(path):
    parts = re.split(r"^== (.*)\n", path.read_text(encoding="utf-8"), flags=re.M)
    return dict(zip(parts[1::2], parts[2::2]))


def as_case(changes):
    out = io.StringIO()
    writer = csv.writer(out, lineterminator="\n")
    for change in changes:
        writer.writerow([round(change.t * 1000), change.name, change.was, change.now])
    return out.getvalue().splitlines()


@pytest.mark.parametrize("path", CASES, ids=lambda path: path.stem)
def test_case(path, tmp_path):
    case = sections(path)
    try:
        gate = ficklegate.Gate("case.gate", case["gate"])
        found = gate.findings
    except ficklegate.GateError as error:
        assert "messages" in case, error
        found = error.findings
    if "messages" in case:  # a line, and something that what is said there holds
        said = [(finding.line, f"{finding.what} | {finding.instead}") for finding in found]
        wanted = [line.split(" ", 1) for line in case["messages"].splitlines()]
        assert [line for line, _ in said] == [int(line) for line, _ in wanted]
        assert all(part in text for (_, text), (_, part) in zip(said, wanted))
    if "readings" not in case:
        return
    (tmp_path / "readings.csv").write_text(case["readings"], encoding="utf-8")
    wanted = case["answers"].splitlines()[1:]
    assert as_case(gate.replay(tmp_path / "readings.csv")) == wanted


BOX = """
every 1s
sensor box { unit °C; step 0.1 }
flag lid
hysteresis cold from box { on under 26; off over 27 }
bands warmth from box { low | 20 | fair | 30 | high }
relay heater { off when lid; on when cold; off if unsure }
trial "t" { readings "s"; expect heater is on at 1s; expect heater is on at 9s }
scene "s" { lasts 10s; box ramps 24 to 28 from 0s to 8s; lid presses at 20s for 1s }
"""


def test_rows():
    gate = ficklegate.Gate("box.gate", BOX)
    assert gate.every == 1
    assert gate.names["box"].unit == "°C" and gate.names["warmth"].labels == ("low", "fair", "high")
    first = gate.row(0, box=25.9, lid=False)
    assert ("heater", "on") in [(c.name, c.now) for c in first]
    assert (gate["heater"], gate["warmth"], gate["box"]) == ("on", "fair", "25.9")
    assert "25.9 °C is under 26" in gate.why("heater")
    assert gate.row(1, {"box": decimal.Decimal("27.1")})[0].now
    assert gate["heater"] == "off"
    gate.row(2, box=None, lid=True)  # no new reading of the box
    assert gate["box"] == "27.1" and gate["lid"] == "yes"
    gate.row(3, box=float("nan"))
    assert gate["box"] == "faulty" and gate["heater"] == "off"
    assert gate.until(5) == []
    gate.restart()
    with pytest.raises(ficklegate.GateError):
        gate["heater"]


def test_rows_are_a_replay(tmp_path):
    gate = ficklegate.Gate("box.gate", BOX)
    rows = [(t / 2, {"box": 24 + t / 10, "lid": t == 30}) for t in range(40)]
    text = "t_s,box,lid\n" + "".join(f"{t},{row['box']:.1f},{int(row['lid'])}\n" for t, row in rows)
    (tmp_path / "rows.csv").write_text(text)
    rounded = [(t, {**row, "box": round(row["box"], 1)}) for t, row in rows]
    by_rows = gate.replay(rounded) + gate.until(rows[-1][0])
    assert by_rows == gate.replay(tmp_path / "rows.csv")


def test_frame():
    pandas = pytest.importorskip("pandas")
    frame = pandas.DataFrame({"t_s": [0.0, 1.0], "box": [25.0, 28.0], "lid": [False, False]})
    assert [c.now for c in ficklegate.Gate("box.gate", BOX).replay(frame) if c.name == "heater"] == ["on", "off"]


def test_trials():
    gate = ficklegate.Gate("box.gate", BOX)
    trials = gate.trials()
    assert [result.outcome for result in trials.results] == ["held", "failed"]
    assert not trials.held and 0 < trials.tried < trials.situations
    assert any(name == "lid" or name == "heater" for name, _ in trials.untried)
    assert [c.now for c in gate.play("s") if c.name == "heater"] == ["on", "off"]


@pytest.mark.parametrize(
    "act, words",
    [
        (lambda: ficklegate.Gate("a.gate", "lamp l { on when key }"), "'key' is not declared"),
        (lambda: ficklegate.Gate("/not/there.gate"), "there.gate"),
        (lambda: ficklegate.Gate("a.gate", BOX).replay("/not/there.csv"), "there.csv"),
        (lambda: ficklegate.Gate("a.gate", BOX).play("nothing"), "no scene"),
        (lambda: ficklegate.Gate("a.gate", BOX).row(0, heater=1), "no sensor or flag 'heater'"),
    ],
)
def test_mistakes(act, words):
    with pytest.raises(ficklegate.GateError, match=words):
        act()


def test_findings():
    with pytest.raises(ficklegate.GateError) as caught:
        ficklegate.Gate("a.gate", "sensor s { unt cm }\nlamp l { on when s over 5 }\n")
    finding = caught.value.findings[0]
    assert (finding.line, finding.severity) == (1, "error") and "unit" in finding.instead


def test_beehive():
    """A season with the numbers that were guessed, and with those the keeper's weighings ask for."""
    gate = ficklegate.Gate(BEEHIVE)
    assert not gate.trials().held
    text = BEEHIVE.read_text(encoding="utf-8").replace("hungry_below = 16 kg", "hungry_below = 18 kg")
    better = ficklegate.Gate(BEEHIVE, text)
    agree = lambda g: next(r for r in g.trials().results if "matches" in r.expectation).because
    assert agree(gate) != agree(better)
    season = gate.replay(ROOT / "examples/beehive/season.csv")
    fed = [change for change in season if change.name == "feed" and change.now == "on"]
    assert fed and "hungry" in fed[0].because
