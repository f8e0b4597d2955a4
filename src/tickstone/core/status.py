"""What can be said of one sample besides its value."""

from enum import IntEnum


class Status(IntEnum):
    """The state of one sample. Stored as one byte, so a number once given stays; only `OK` samples
    are measurements.

    >>> Status.NO_ECHO.word
    'no echo'
    """

    OK = 0
    NO_ECHO = 1
    TIMED_OUT = 2
    TOO_NEAR = 3
    TOO_FAR = 4
    MISSING = 5
    BAD_TEXT = 6
    OVER_RANGE = 7
    FIRST_PULSE = 8
    BOUNCE = 9
    MISSED_PULSE = 10
    SLOW = 11
    RAN_BACK = 12
    NO_GAP = 13
    NOT_YET = 14
    REVERSED = 15
    SKIPPED_STEP = 16
    NO_STATE = 17
    LINE_GAP = 18
    OUTDATED = 19
    CLIPPED = 20
    SATURATED = 21
    TOO_DARK = 22
    FLOODED = 23
    UNCALIBRATED = 24
    LOST = 25
    ALL_ON_LINE = 26
    LIFTED = 27
    SEEN_TWICE = 28
    TWO_VALUED = 29
    SENSOR_SAYS_NO = 30
    AT_ODDS = 31
    ONE_ALONE = 32
    UNPLACED = 33
    MOVING = 34
    NO_ANGLE = 35

    @property
    def code(self) -> str:
        """The name used in files and by the command line, such as ``no_echo``."""
        return self.name.lower()

    @property
    def word(self) -> str:
        """The name a person reads, such as ``no echo``."""
        return self.name.lower().replace("_", " ")

    @property
    def is_bound(self) -> bool:
        """Whether the value that goes with it is one that the truth lies below."""
        return self is Status.SLOW

    @property
    def meaning(self) -> str:
        """One sentence saying what the status means and what it does not."""
        return _MEANINGS[self]

    @property
    def remark(self) -> str:
        """The meaning where there is anything to remark: nothing of a measurement."""
        return "" if self is Status.OK else self.meaning


_MEANINGS = {
    Status.OK: "A measurement.",
    Status.NO_ECHO: (
        "The sensor reported 0: no echo came back in time. It does not mean that something touches."
    ),
    Status.TIMED_OUT: "The echo line stayed high until the timeout: nothing was heard.",
    Status.TOO_NEAR: "Nearer than the sensor can tell: its own pulse still rings when it returns.",
    Status.TOO_FAR: "Farther than the sensor is stated to reach; likely an echo of something else.",
    Status.MISSING: "The line said nothing for this channel.",
    Status.BAD_TEXT: "What stood there is not a number.",
    Status.FIRST_PULSE: "The first pulse: there is none before it to measure from.",
    Status.BOUNCE: "Too soon after the pulse before to be another: the switch chattered.",
    Status.MISSED_PULSE: "The gap is that of two or three pulses: one was not heard.",
    Status.SLOW: "No pulse came for so long that the rate can only be told to lie below this.",
    Status.RAN_BACK: "The running count fell: the board was reset, or its counter is narrower.",
    Status.NOT_YET: "Too little has come before it to tell.",
    Status.REVERSED: "It turned round here: the time since the step before is that of no turning.",
    Status.SKIPPED_STEP: (
        "Two steps came at once: one was not seen, and where both ways are as far, it was taken to "
        "go on as before."
    ),
    Status.NO_STATE: "The channels stand as they never can when all of them work.",
    Status.OUTDATED: "What it was told by came too long ago to hold still.",
    Status.LINE_GAP: (
        "Nothing came over the line for a while: what went on meanwhile is not known."
    ),
    Status.CLIPPED: "At the very end of what the converter can tell: the truth may lie beyond.",
    Status.SATURATED: "It takes in all the light it can tell: more would read the same.",
    Status.TOO_DARK: "Darker than its black: lifted, not lit, or not wired.",
    Status.FLOODED: "Lighter than its white can be: room light comes in beside its own.",
    Status.UNCALIBRATED: "Nothing has told it yet which reading is black and which is white.",
    Status.LOST: "No sensor sees the line: where it was last seen is all that is known.",
    Status.ALL_ON_LINE: "All sensors see the line at once: where its middle lies cannot be told.",
    Status.LIFTED: "All sensors are darker than black: off the floor, or not lit.",
    Status.SEEN_TWICE: "The line is seen in two places: a fork, dirt, or a second line.",
    Status.TWO_VALUED: (
        "It came so near that its voltage turned back: the thing may be much nearer than this."
    ),
    Status.SENSOR_SAYS_NO: "The sensor’s own status word says that it is no measurement.",
    Status.AT_ODDS: "Two sensors disagree by more than their doubt allows; the nearer is told.",
    Status.ONE_ALONE: "Only one of the two sensors measured.",
    Status.UNPLACED: "Where its sensors sit is told of another number of them than are heard.",
    Status.MOVING: (
        "What is felt is not 1 g: it is being moved, so that the tilt told is not that of rest."
    ),
    Status.NO_ANGLE: "It points straight up or down, or feels nothing: this angle means nothing.",
    Status.NO_GAP: "A gap of 0: no two pulses come at once.",
    Status.OVER_RANGE: "The board said that the value is beyond what it can hold or measure.",
}
