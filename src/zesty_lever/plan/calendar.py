"""Sessions as an iCalendar file (RFC 5545): floating local times, stable names, no health data."""

from __future__ import annotations

from collections.abc import Iterable
from datetime import UTC, date, datetime, timedelta

from zesty_lever.frozen import dataclass

FOLD_AT = 75
STATUS = {
    "planned": "CONFIRMED",
    "running": "CONFIRMED",
    "done": "CONFIRMED",
    "missed": "CANCELLED",
    "called-off": "CANCELLED",
}
USUAL_START_H = 17


@dataclass(frozen=True)
class Appointment:
    """One session for the calendar: ``id`` its id, ``day`` an ordinal, ``exercises`` by name."""

    id: int
    day: int
    name: str
    minutes: int
    state: str
    exercises: tuple[str, ...]
    version: int
    changed_ms: int


def calendar_text(
    appointments: Iterable[Appointment], name: str, start_h: int = USUAL_START_H
) -> str:
    """The whole file, lines ended by CR LF and folded at 75 octets."""
    lines = [
        "BEGIN:VCALENDAR",
        "VERSION:2.0",
        "PRODID:-//Zesty Lever//Plan//EN",
        "CALSCALE:GREGORIAN",
        f"X-WR-CALNAME:{_text(name)}",
    ]
    for one in appointments:
        lines += _event(one, start_h)
    lines.append("END:VCALENDAR")
    return "".join(f"{_folded(line)}\r\n" for line in lines)


def _event(one: Appointment, start_h: int) -> list[str]:
    day = date.fromordinal(one.day)
    begins = datetime(day.year, day.month, day.day, start_h, tzinfo=UTC)
    ends = begins + timedelta(minutes=one.minutes)
    changed = datetime.fromtimestamp(one.changed_ms / 1e3, tz=UTC)
    return [
        "BEGIN:VEVENT",
        f"UID:session-{one.id}@zesty-lever",
        f"DTSTAMP:{changed:%Y%m%dT%H%M%SZ}",
        f"LAST-MODIFIED:{changed:%Y%m%dT%H%M%SZ}",
        f"SEQUENCE:{max(one.version - 1, 0)}",
        f"DTSTART:{begins:%Y%m%dT%H%M%S}",
        f"DTEND:{ends:%Y%m%dT%H%M%S}",
        f"SUMMARY:{_text(one.name or 'Session')}",
        f"DESCRIPTION:{_text(chr(10).join(one.exercises))}",
        f"STATUS:{STATUS.get(one.state, 'CONFIRMED')}",
        "END:VEVENT",
    ]


def _text(words: str) -> str:
    """Text with what the format gives a meaning escaped."""
    plain = words.replace("\\", "\\\\").replace(";", "\\;").replace(",", "\\,")
    return plain.replace("\r\n", "\\n").replace("\n", "\\n").replace("\r", "\\n")


def _folded(line: str) -> str:
    """A line in pieces of at most 75 octets, never inside a character."""
    pieces, piece, size = [], "", 0
    for character in line:
        octets = len(character.encode())
        if size + octets > FOLD_AT:
            pieces.append(piece)
            piece, size = " ", 1
        piece += character
        size += octets
    return "\r\n".join([*pieces, piece])
