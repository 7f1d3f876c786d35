# SPDX-License-Identifier: MIT
"""Fickle Gate from Python: the same engine that steps on a board, fed and asked.

    import ficklegate

    gate = ficklegate.Gate("box.gate")
    gate.row(0.0, box=25.9)
    gate["heater"]      # 'on'
    gate.why("heater")  # 'row 1: heating is yes (box 25.9 °C is under 26.2 °C)'

Readings are numbers in the unit of their sensor; `None` is no new reading, and what is no number is a faulty one.
"""

from __future__ import annotations

import ctypes.util
import decimal
import json
import math
import os
import pathlib
from dataclasses import dataclass
from typing import Any, Iterable, Mapping, Optional, Union

import cffi

__all__ = ["Gate", "GateError", "Change", "Finding", "Name", "Result", "Trials"]

_ffi = cffi.FFI()
_ffi.cdef(
    """
    typedef struct fg_handle fg_handle;
    fg_handle *fg_handle_open(const char *path, const char *text);
    void fg_handle_close(fg_handle *handle);
    bool fg_handle_good(const fg_handle *handle);
    const char *fg_handle_about(fg_handle *handle);
    const char *fg_handle_row(fg_handle *handle, int64_t t_ms, const char *const *names, const char *const *values,
                              size_t count);
    const char *fg_handle_until(fg_handle *handle, int64_t t_ms);
    bool fg_handle_restart(fg_handle *handle);
    const char *fg_handle_now(fg_handle *handle, const char *name);
    const char *fg_handle_why(fg_handle *handle, const char *name);
    const char *fg_handle_replay(fg_handle *handle, const char *recording, bool scene);
    const char *fg_handle_trials(fg_handle *handle);
    """
)


def _library() -> Any:
    """The shared library: FICKLEGATE_LIBRARY, beside this module, or where the system has it."""
    here = pathlib.Path(__file__).parent
    names = [os.environ.get("FICKLEGATE_LIBRARY"), *map(str, sorted(here.glob("libficklegate-workshop.so*")))]
    names += [ctypes.util.find_library("ficklegate-workshop"), "libficklegate-workshop.so.0.1"]
    for name in names:
        if not name:
            continue
        try:
            return _ffi.dlopen(name)
        except OSError:
            continue
    raise ImportError("the library libficklegate-workshop is not here; install it, or name it in FICKLEGATE_LIBRARY")


_lib = _library()

Reading = Union[float, int, bool, str, decimal.Decimal, None]


@dataclass(frozen=True)
class Finding:
    """What the compiler has to say: `severity` is error, warning or note."""

    severity: str
    kind: str
    file: str
    line: int
    column: int
    what: str
    instead: str

    def __str__(self) -> str:
        return f"{self.file}:{self.line}:{self.column}: {self.severity}: {self.what} [{self.kind}]"


@dataclass(frozen=True)
class Name:
    """A name of the gate. `read`: it comes from outside."""

    name: str
    kind: str
    unit: str
    decimals: int
    labels: tuple[str, ...]
    read: bool


@dataclass(frozen=True)
class Change:
    """A name became something else, `t` seconds after the first row."""

    t: float
    name: str
    was: str
    now: str
    because: str


@dataclass(frozen=True)
class Result:
    """How one expectation came out: held, failed, never tried or undecided."""

    trial: str
    line: int
    expectation: str
    outcome: str
    because: str

    @property
    def held(self) -> bool:
        return self.outcome == "held"


@dataclass(frozen=True)
class Trials:
    """All results, and how much of what may happen was tried."""

    results: tuple[Result, ...]
    tried: int
    situations: int
    untried: tuple[tuple[str, str], ...]

    @property
    def held(self) -> bool:
        return all(result.held for result in self.results)


class GateError(Exception):
    """A gate with mistakes, a file that cannot be read, a name that is none. `findings`: what the compiler says."""

    def __init__(self, text: str, findings: tuple[Finding, ...] = ()) -> None:
        super().__init__(text)
        self.findings = findings


def _cell(value: Reading) -> str:
    """As it stands in a recording."""
    if value is None:
        return ""
    if isinstance(value, bool):
        return "1" if value else "0"
    if isinstance(value, float):
        return format(decimal.Decimal(repr(value)), "f") if math.isfinite(value) else "faulty"
    if isinstance(value, decimal.Decimal):
        return format(value, "f") if value.is_finite() else "faulty"
    return str(value)


def _changes(items: Iterable[Mapping[str, Any]]) -> list[Change]:
    return [Change(i["t_ms"] / 1000, i["name"], i["was"], i["is"], i["because"]) for i in items]


class Gate:
    """A gate file, and a run of it. `text` stands in place of the file if it is given."""

    def __init__(self, path: Union[str, os.PathLike[str]], text: Optional[str] = None) -> None:
        self._handle = _ffi.NULL
        given = _ffi.NULL if text is None else _ffi.new("char[]", text.encode())
        self._handle = _lib.fg_handle_open(os.fsencode(path), given)
        if self._handle == _ffi.NULL:
            raise MemoryError
        about = self._json(_lib.fg_handle_about(self._handle))
        self.path = os.fspath(path)
        self.title: str = about["title"]
        self.every: float = about["every"] / 1000
        self.findings = tuple(Finding(**item) for item in about["findings"])
        self.names = {i["name"]: Name(**{**i, "labels": tuple(i["labels"])}) for i in about["names"]}
        self.trial_names: tuple[str, ...] = tuple(about["trials"])
        self.scenes: tuple[str, ...] = tuple(about["scenes"])
        if not about["good"]:
            errors = [str(finding) for finding in self.findings if finding.severity == "error"]
            raise GateError("\n".join(errors), self.findings)

    def __del__(self) -> None:
        if getattr(self, "_handle", _ffi.NULL) != _ffi.NULL:
            _lib.fg_handle_close(self._handle)

    @staticmethod
    def _text(answer: Any) -> str:
        if answer == _ffi.NULL:
            raise MemoryError
        return _ffi.string(answer).decode()

    def _json(self, answer: Any) -> Any:
        value = json.loads(self._text(answer))
        if isinstance(value, dict) and "mistake" in value:
            m = value["mistake"]
            raise GateError(f"{m['file']}:{m['line']}: {m['text']}" if m["line"] else f"{m['file']}: {m['text']}")
        return value

    def row(self, t: float, readings: Optional[Mapping[str, Reading]] = None, **more: Reading) -> list[Change]:
        """Readings at `t` seconds, not before the last ones: makes the steps up to then and says what changed."""
        cells = {**(readings or {}), **more}
        for name in cells:
            if name.removesuffix(".raw") not in self.names or not self.names[name.removesuffix(".raw")].read:
                raise GateError(f"{self.path}: no sensor or flag '{name}' is read")
        keys = [_ffi.new("char[]", name.encode()) for name in cells]
        values = [_ffi.new("char[]", _cell(value).encode()) for value in cells.values()]
        return _changes(self._json(_lib.fg_handle_row(self._handle, round(t * 1000), keys, values, len(keys))))

    def until(self, t: float) -> list[Change]:
        """Makes the steps up to `t` seconds after the first row."""
        return _changes(self._json(_lib.fg_handle_until(self._handle, round(t * 1000))))

    def restart(self) -> None:
        """Forgets all rows: the next one is the first."""
        if not _lib.fg_handle_restart(self._handle):
            raise MemoryError

    def __getitem__(self, name: str) -> str:
        """What a name is now: an answer, a value, a level."""
        if name not in self.names:
            raise KeyError(name)
        answer = _lib.fg_handle_now(self._handle, name.encode())
        if answer == _ffi.NULL:
            raise GateError(f"{name} is nothing yet: give the gate a row first")
        return self._text(answer)

    def why(self, name: str) -> str:
        """Why it became what it is; empty before its first change."""
        if name not in self.names:
            raise KeyError(name)
        answer = _lib.fg_handle_why(self._handle, name.encode())
        return "" if answer == _ffi.NULL else self._text(answer)

    def replay(self, readings: Any) -> list[Change]:
        """Plays a recording by its path, a data frame, or rows: pairs of seconds and a mapping of names to readings.
        Of a path the run of this gate stays as it is; rows and frames begin it anew."""
        if isinstance(readings, (str, os.PathLike)):
            return _changes(self._json(_lib.fg_handle_replay(self._handle, os.fsencode(readings), False))["changes"])
        if hasattr(readings, "to_dict"):
            readings = [(row.pop("t_s"), row) for row in readings.to_dict("records")]
        self.restart()
        return [change for t, row in readings for change in self.row(t, row)]

    def play(self, scene: str) -> list[Change]:
        """Plays a scene of the gate."""
        return _changes(self._json(_lib.fg_handle_replay(self._handle, scene.encode(), True))["changes"])

    def trials(self) -> Trials:
        """Runs all trials of the gate."""
        about = self._json(_lib.fg_handle_trials(self._handle))
        return Trials(
            tuple(Result(**item) for item in about["results"]),
            about["tried"],
            about["situations"],
            tuple((item["name"], item["what"]) for item in about["untried"]),
        )
