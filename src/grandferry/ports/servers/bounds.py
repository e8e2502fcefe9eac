"""What a server's redirect files cannot do, or do otherwise than another's: each with its sentence."""

from __future__ import annotations

from enum import StrEnum


class Bound(StrEnum):
    """Where a server answers otherwise than the map says, or than other servers do."""

    CASE = "case"
    NOT_FOLDED = "not folded"
    AS_SENT = "as sent"
    NORMALISED = "normalised"
    RAW_BYTES = "raw bytes"
    CONTROLS = "controls"
    BAD_ESCAPE = "bad escape"
    NUL = "nul"
    ABOVE = "above"
    ABSOLUTE = "absolute"
    ENCODED_SLASH = "encoded slash"
    NO_ENCODED_SLASH = "no encoded slash"
    COMMA = "comma"
    EVERY_LINE = "every line"
    SLOW_START = "slow start"
    MAKE_TABLE = "make table"
    TOO_LONG = "too long"
    LONG_PART = "long part"
    NO_PATTERN = "no pattern"
    NO_GONE = "no gone"
    FEW_LINES = "few lines"
    QUERY_LINES = "query lines"
    BARE_QUERY = "bare query"


SAID: dict[Bound, str] = {
    Bound.CASE: "Letter case is not told apart, save where two addresses of the map differ in it alone.",
    Bound.NOT_FOLDED: "Doubled slashes and dot segments of a request are not folded: //old is not /old here.",
    Bound.AS_SENT: "Patterns and folders are held against a request as it was sent, escapes and all.",
    Bound.NORMALISED: "Patterns are held against a request with its escapes in normal form, %2F as a slash.",
    Bound.RAW_BYTES: "A request with bytes beyond ASCII that are not escaped is refused (400).",
    Bound.CONTROLS: "A request with an escaped control character is refused (400 or 404) before any line is looked at.",
    Bound.BAD_ESCAPE: "A percent sign that begins no escape is refused (400) before any line is looked at.",
    Bound.NUL: "An escaped zero byte (%00) is refused (400 or 404) before any line is looked at.",
    Bound.ABOVE: "A path that climbs above its root (/../) is refused (400) before any line is looked at.",
    Bound.ABSOLUTE: "The host that was asked is put before every new address.",
    Bound.ENCODED_SLASH: "Lines hold %2F: AllowEncodedSlashes NoDecode is set for them.",
    Bound.NO_ENCODED_SLASH: "A request with %2F is answered with 404 before any line is looked at.",
    Bound.COMMA: "A new address of a pattern cannot hold a comma here.",
    Bound.EVERY_LINE: "Every line is looked at for every request: fit for up to about 1,000 lines.",
    Bound.SLOW_START: "Lines are looked at one after the other: some 3 ms a request at 100,000 lines.",
    Bound.MAKE_TABLE: "The table has to be made once, and again after every change, by the command below.",
    Bound.LONG_PART: "A part of a path over 255 bytes is refused (403) before any line is looked at.",
    Bound.TOO_LONG: "A line is longer than the server reads.",
    Bound.NO_PATTERN: "There are no patterns: they are written as single lines over all known old addresses.",
    Bound.NO_GONE: "Gone (410) cannot be said: such addresses get no line, and are answered with 404.",
    Bound.FEW_LINES: "Hosts that read this form take a bounded number of lines; ask yours before the day.",
    Bound.BARE_QUERY: "A parameter without a value cannot be asked for: such addresses get no line.",
    Bound.QUERY_LINES: "Lines that name a query need a host that reads parameters between old and new address.",
}
