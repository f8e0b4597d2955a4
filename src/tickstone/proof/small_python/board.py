"""The stand-in for a board's hardware, run by the small interpreter itself.

Time is made up: every call takes what such a call takes, roughly, and nothing is waited for. What
happens outside comes as a description of the world; see `listening.py`. `modules` are what a
program imports.
"""

CALL_US, CONVERT_US, BUS_US, PRINT_US = 3, 12, 400, 150
ANSWERS_US = 450


class World:
    """What is true around the board, and what time it is."""

    def __init__(self, told):
        self.now = 0
        self.until = told["until_us"]
        self.levels = {}
        self.codes = {}
        self.handlers = {}
        self.events = sorted(told["events"])
        self.rangers = {one["trigger"]: dict(one, at=0) for one in told["rangers"]}
        self.units = {one["address"]: dict(one, at=0) for one in told["units"]}
        self.wires = {one["pin"]: dict(one, at=0) for one in told["wires"]}
        self.words = {one["pin"]: dict(one, at=0) for one in told["words"]}
        self.echoes = {}
        self.written = []
        self._is_busy = False
        self._next = 0

    def passes(self, us):
        """Time goes on, and what falls into it happens."""
        end = self.now + us
        if self._is_busy:
            self.now = end
            return
        self._is_busy = True
        while self._next < len(self.events) and self.events[self._next][0] <= end:
            at, what, pin, value = self.events[self._next]
            self._next += 1
            self.now = max(self.now, at)
            if what == "volts":
                self.codes[pin] = value
            else:
                before, self.levels[pin] = self.levels.get(pin), value
                handler = self.handlers.get(pin)
                if handler and before is not None and before != value:
                    run, edges, it = handler
                    if edges & (Pin.IRQ_RISING if value else Pin.IRQ_FALLING):
                        run(it)
        self._is_busy = False
        self.now = max(self.now, end)
        if self.now > self.until:
            raise SystemExit

    def triggered(self, pin):
        """A pulse on a trigger has ended."""
        one = self.rangers.get(pin)
        if one is not None:
            widths = one["widths"]
            self.echoes[one["echo"]] = widths[min(one["at"], len(widths) - 1)]
            one["at"] += 1

    def pulse_us(self, pin, level, timeout_us):
        """How long a pin stays at a level."""
        if pin in self.words:
            one = self.words[pin]
            found = one["pulses"][one["at"]]
            one["at"] += 1
            self.passes(50 + found)
            return found
        width = self.echoes.pop(pin, 0)
        self.passes(ANSWERS_US)
        if not width:
            self.passes(timeout_us)
            return -2
        self.passes(min(width, timeout_us))
        return width if width <= timeout_us else -1


world = None


class Pin:
    IN, OUT, PULL_UP = 0, 1, 1
    IRQ_RISING, IRQ_FALLING = 1, 2

    def __init__(self, number, mode=-1, pull=-1, value=None):
        self.number = number
        if pull == Pin.PULL_UP:
            world.levels.setdefault(number, 1)
        self.init(mode, value=value)

    def init(self, mode=-1, pull=-1, value=None):
        self._is_out = mode == Pin.OUT
        if value is not None:
            self.value(value)

    def value(self, level=None):
        world.passes(CALL_US)
        if level is None:
            return 0 if self.number in world.rangers else world.levels.get(self.number, 0)
        if self._is_out:
            if world.levels.get(self.number) == 1 and level == 0:
                world.triggered(self.number)
            world.levels[self.number] = level

    def irq(self, handler, trigger):
        world.handlers[self.number] = (handler, trigger, self)


class ADC:
    ATTN_11DB = 3

    def __init__(self, pin, atten=0):
        self._number = pin.number

    def read_u16(self):
        world.passes(CONVERT_US)
        return world.codes.get(self._number, 0)


class I2C:
    def __init__(self, number, sda, scl, freq):
        pass

    def _unit(self, address):
        world.passes(BUS_US)
        if address not in world.units:
            raise OSError(5)
        return world.units[address]

    def writeto_mem(self, address, number, data):
        self._unit(address)
        world.written.append((address, number, data[0]))

    def readfrom_mem_into(self, address, first, into):
        one = self._unit(address)
        assert first == one["first"]
        block = one["blocks"][min(one["at"], len(one["blocks"]) - 1)]
        one["at"] += 1
        into[:] = bytes(block)


class OneWire:
    def __init__(self, pin):
        self._pin = pin.number
        self._bytes = []

    def reset(self):
        world.passes(960)
        return self._pin in world.wires

    def writebyte(self, value):
        world.passes(560)
        one = world.wires[self._pin]
        if value == one["convert"]:
            one["begun"] = world.now
        elif value == one["read"]:
            done = "begun" in one and world.now - one["begun"] >= one["convert_us"]
            code = one["codes"][min(one["at"], len(one["codes"]) - 1)] if done else 85 * 16
            one["at"] += 1
            self._bytes = [code & 0xFF, code >> 8 & 0xFF]

    def readbyte(self):
        world.passes(560)
        return self._bytes.pop(0)


class Machine:
    Pin, ADC, I2C = Pin, ADC, I2C

    def time_pulse_us(self, pin, level, timeout_us):
        return world.pulse_us(pin.number, level, timeout_us)

    def disable_irq(self):
        return 1

    def enable_irq(self, state):
        pass


class Time:
    """The counter has 30 bits, as on such boards, so that its wrap is met."""

    PERIOD = 1 << 30

    def __init__(self, begins_us):
        self._begins = begins_us

    def ticks_us(self):
        world.passes(CALL_US)
        return (world.now + self._begins) % self.PERIOD

    def ticks_ms(self):
        world.passes(CALL_US)
        return (world.now + self._begins) // 1000 % self.PERIOD

    def ticks_diff(self, one, other):
        half = self.PERIOD // 2
        return (one - other + half) % self.PERIOD - half

    def ticks_add(self, one, us):
        return (one + us) % self.PERIOD

    def sleep_us(self, us):
        world.passes(max(0, us))


class Poll:
    def register(self, stream, what):
        pass

    def poll(self, ms):
        world.passes(CALL_US)
        return []


class Select:
    POLLIN = 1
    poll = Poll


class OneWireModule:
    OneWire = OneWire


def modules(told):
    """What a program imports, in a world."""
    global world
    world = World(told)
    return {
        "machine": Machine(),
        "time": Time(told["begins_us"]),
        "select": Select(),
        "onewire": OneWireModule(),
    }
