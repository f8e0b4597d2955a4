"""Names of columns, and the units people put into them."""

from __future__ import annotations

import re

_SPELLINGS = {
    "µs": ("us", "usec", "usecs", "micros", "microseconds", "microsecond", "μs"),
    "ms": ("msec", "msecs", "millis", "milliseconds", "millisecond"),
    "s": ("sec", "secs", "seconds", "second"),
    "ns": ("nsec", "nanos", "nanoseconds"),
    "min": ("minutes",),
    "mm": ("millimetres", "millimeters"),
    "cm": ("centimetres", "centimeters"),
    "m": ("metres", "meters", "metre", "meter"),
    "in": ("inch", "inches"),
    "ft": ("feet",),
    "g": (),
    "mg": (),
    "m/s": ("mps",),
    "m/s²": ("m/s2", "m/s^2", "mps2", "ms-2", "m/s/s"),
    "km/h": ("kmh", "kph", "kmph"),
    "mph": (),
    "RPM": ("rev/min", "rpm"),
    "Hz": ("hertz",),
    "kHz": (),
    "V": ("volts", "volt"),
    "mV": ("millivolts",),
    "A": ("amps", "ampere"),
    "mA": ("milliamps",),
    "Ω": ("ohm", "ohms"),
    "kΩ": ("kohm",),
    "°C": ("degc", "celsius", "c", "deg c", "℃", "ºc"),
    "°F": ("degf", "fahrenheit", "f", "deg f", "ºf"),
    "K": ("kelvin",),
    "%": ("percent", "pct", "%rh", "rh"),
    "°": ("deg", "degs", "degrees", "degree", "º"),
    "°/s": ("dps", "deg/s", "deg/sec", "º/s"),
    "rad": ("radians",),
    "rad/s": (),
    "LSB": (),
    "counts": ("count", "adc", "ticks", "raw"),
    "Pa": ("pascal",),
    "hPa": ("mbar",),
    "kPa": (),
    "lx": ("lux",),
}
_KNOWN = {spelling.lower(): unit for unit, more in _SPELLINGS.items() for spelling in (unit, *more)}
_EXACT = {"K": "K", "m": "m", "M": None, "S": None, "a": None}
TIME_UNITS_US = {"ns": 1e-3, "µs": 1.0, "ms": 1e3, "s": 1e6, "min": 6e7}

# In a plain name such as `speed_m` or `echo_us` only these endings are taken for a unit: single
# letters and words such as `raw` or `count` are as often part of the name.
_NOT_AS_ENDING = {"c", "f", "a", "rh", "raw", "count", "counts", "ticks", "adc", "in", "k", "min"}
LONGEST_NAME = 200
"""A longer header is no name with a unit; nor would it be gone through in little time."""
_BRACKETS = re.compile(r"^(.*?)\s*[\[(<{]\s*([^\[\](){}<>]{0,20}?)\s*[\])>}]\s*$")
_AFTER = re.compile(r"^(.*\S)\s*(?:,\s*|\s/\s|\sin\s)\s*(\S.{0,15})$")
_ENDING = re.compile(r"^(.*[^_\s\-])[_\s\-]([^\W\d_]+(?:/[a-z]+²?2?)?|%|°[CF]?)$", re.I)


def known_unit(text: str) -> str | None:
    """The unit a spelling stands for, as Tick Stone prints it; None when it is none.

    >>> known_unit("usec"), known_unit("m/s2"), known_unit("Deg"), known_unit("banana")
    ('µs', 'm/s²', '°', None)
    """
    text = text.strip().rstrip(".").replace("μ", "µ")
    if text in _EXACT:
        return _EXACT[text]
    if text in _SPELLINGS:
        return text
    return _KNOWN.get(text.lower())


_TYPE = (
    r"(?:unsigned\s{1,4}|signed\s{1,4}|const\s{1,4})?"
    r"(?:u?int(?:8|16|32|64)?(?:_t)?|float(?:32|64)?|double|long|short|byte|char|bool(?:ean)?|"
    r"uint|real|decimal|numeric|string|str)"
)
_TYPE_BEFORE = re.compile(rf"^{_TYPE}\s{{1,4}}(?P<name>[^\W\d][^()]{{0,80}})$", re.IGNORECASE)
_TYPE_AFTER = re.compile(
    rf"^(?P<name>[^\W\d].{{0,80}}?)\s?(?::\s?{_TYPE}|\(\s?{_TYPE}\s?\)|<\s?{_TYPE}\s?>)$",
    re.IGNORECASE,
)
_TYPE_AROUND = re.compile(rf"^{_TYPE}\s?\(\s?(?P<name>[^()]{{1,80}}?)\s?\)$", re.IGNORECASE)


def without_type(header: str) -> str:
    """A column's name without the type word that a program put around it.

    >>> [without_type(name) for name in ("float dist_cm", "echo_us:uint32_t", "int(count)", "long")]
    ['dist_cm', 'echo_us', 'count', 'long']
    """
    if len(header) > LONGEST_NAME:
        return header
    for pattern in (_TYPE_BEFORE, _TYPE_AFTER, _TYPE_AROUND):
        if match := pattern.match(header):
            return match["name"].strip()
    return header


def split_unit(header: str) -> tuple[str, str]:
    """A column's name and its unit, "" when it names none.

    The unit stands in brackets, after a comma, a slash or “in”, or after an underscore or a space.

    >>> split_unit("speed [m/s]"), split_unit("Temp (°C)"), split_unit("accel, g")
    (('speed', 'm/s'), ('Temp', '°C'), ('accel', 'g'))
    >>> split_unit("echo_us"), split_unit("time / ms"), split_unit("left_count"), split_unit("x")
    (('echo', 'µs'), ('time', 'ms'), ('left_count', ''), ('x', ''))
    >>> split_unit("speed_m [-]")
    ('speed_m', '')
    """
    header = without_type(header.strip().strip("\"'`").strip())
    if len(header) > LONGEST_NAME:
        return header, ""
    match = _BRACKETS.match(header)
    if match and match[1] and match[2] == "-":
        return match[1], ""
    if match:
        unit = known_unit(match[2])
        if unit is not None or (match[1] and re.search(r"[^\W\d]|%|°", match[2])):
            return match[1].strip(" _:") or header, unit if unit is not None else match[2]
    match = _AFTER.match(header)
    if match and (unit := known_unit(match[2])):
        return match[1], unit
    match = _ENDING.match(header)
    is_warmth = bool(match and re.match(r"temp|air|therm", match[1], re.IGNORECASE))
    may_end = match and (is_warmth or match[2].lower() not in _NOT_AS_ENDING)
    if match and may_end and (unit := known_unit(match[2])):
        return match[1], unit
    if (unit := known_unit(header)) in TIME_UNITS_US and header.lower() in ("millis", "micros"):
        return header, unit or ""
    return header, ""
