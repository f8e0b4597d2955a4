// See core.h. 16 MHz; timer 0 divides by 64, so that one tick is 4 µs.

#include "core.h"

#include <stdlib.h>
#include <util/delay_basic.h>

#include "Wire.h"

void setup();
void loop();

static volatile uint32_t overflows = 0;

ISR(TIMER0_OVF_vect) { overflows = overflows + 1; }

uint32_t micros() {
  const uint8_t was = SREG;
  cli();
  uint32_t high = overflows;
  const uint8_t low = TCNT0;
  if ((TIFR0 & _BV(TOV0)) && low < 255) high++;
  SREG = was;
  return ((high << 8) + low) * 4;
}

uint32_t millis() {
  const uint8_t was = SREG;
  cli();
  const uint32_t high = overflows;
  SREG = was;
  // 1.024 ms an overflow.
  return high + high / 125 * 3 + high % 125 * 3 / 125;
}

void delay(uint32_t ms) {
  for (const uint32_t begun = micros(); micros() - begun < ms * 1000;) {
  }
}

void delayMicroseconds(uint16_t us) {
  if (us > 1) _delay_loop_2((us - 1) * 4);
}

static volatile uint8_t *mode_of(uint8_t pin) { return portModeRegister(digitalPinToPort(pin)); }
static volatile uint8_t *out_of(uint8_t pin) { return portOutputRegister(digitalPinToPort(pin)); }

void pinMode(uint8_t pin, uint8_t mode) {
  const uint8_t mask = digitalPinToBitMask(pin), was = SREG;
  cli();
  if (mode == OUTPUT) {
    *mode_of(pin) |= mask;
  } else {
    *mode_of(pin) &= ~mask;
    if (mode == INPUT_PULLUP) {
      *out_of(pin) |= mask;
    } else {
      *out_of(pin) &= ~mask;
    }
  }
  SREG = was;
}

void digitalWrite(uint8_t pin, uint8_t level) {
  const uint8_t mask = digitalPinToBitMask(pin), was = SREG;
  cli();
  if (level == HIGH) {
    *out_of(pin) |= mask;
  } else {
    *out_of(pin) &= ~mask;
  }
  SREG = was;
}

int digitalRead(uint8_t pin) {
  return (*portInputRegister(digitalPinToPort(pin)) & digitalPinToBitMask(pin)) != 0 ? HIGH : LOW;
}

static uint8_t reference = DEFAULT;

void analogReference(uint8_t mode) { reference = mode; }

int analogRead(uint8_t pin) {
  ADMUX = static_cast<uint8_t>(reference << 6) | (pin - 14);
  ADCSRA = _BV(ADEN) | _BV(ADSC) | 7;
  while (ADCSRA & _BV(ADSC)) {
  }
  return ADC;
}

void analogWrite(uint8_t pin, int value) { digitalWrite(pin, value > 127 ? HIGH : LOW); }

static void (*runs[2])() = {nullptr, nullptr};

void attachInterrupt(uint8_t number, void (*run)(), int mode) {
  runs[number & 1] = run;
  EICRA = (EICRA & ~(3 << (2 * number))) | (mode << (2 * number));
  EIMSK |= _BV(number);
}

ISR(INT0_vect) {
  if (runs[0]) runs[0]();
}
ISR(INT1_vect) {
  if (runs[1]) runs[1]();
}

// The serial line, through a buffer that an interrupt empties.
Line Serial;
static const uint8_t SIZE = 64;
static volatile uint8_t waiting[SIZE];
static volatile uint8_t head = 0, tail = 0;

void Line::begin(uint32_t baud) {
  UCSR0A = _BV(U2X0);
  UBRR0 = (F_CPU / 4 / baud - 1) / 2;
  UCSR0B = _BV(RXEN0) | _BV(TXEN0);
}

ISR(USART_UDRE_vect) {
  UDR0 = waiting[tail];
  tail = (tail + 1) % SIZE;
  if (head == tail) UCSR0B &= ~_BV(UDRIE0);
}

void Line::write(uint8_t byte) {
  const uint8_t next = (head + 1) % SIZE;
  while (next == tail) {
  }
  waiting[head] = byte;
  head = next;
  UCSR0B |= _BV(UDRIE0);
}

void Line::flush() {
  while (head != tail || !(UCSR0A & _BV(UDRE0))) {
  }
}

int Line::read() { return UCSR0A & _BV(RXC0) ? UDR0 : -1; }

void Line::print(char one) { write(one); }
void Line::print(const char *text) {
  while (*text) write(*text++);
}
void Line::print(const __FlashStringHelper *text) {
  const char *at = reinterpret_cast<const char *>(text);
  for (char one; (one = pgm_read_byte(at)) != 0; at++) write(one);
}
void Line::print(uint8_t value) { print(static_cast<unsigned long>(value)); }
void Line::print(int value) { print(static_cast<long>(value)); }
void Line::print(unsigned value) { print(static_cast<unsigned long>(value)); }
void Line::print(long value) {
  char text[12];
  print(static_cast<const char *>(ltoa(value, text, 10)));
}
void Line::print(unsigned long value) {
  char text[12];
  print(static_cast<const char *>(ultoa(value, text, 10)));
}
void Line::print(double value, uint8_t decimals) {
  char text[24];
  print(static_cast<const char *>(dtostrf(value, 1, decimals, text)));
}
void Line::println() { print("\r\n"); }
void Line::println(const __FlashStringHelper *text) {
  print(text);
  println();
}

// The bus, step by step from its interrupt.
Bus Wire;
static volatile uint8_t bytes[32], count = 0, at = 0;
static volatile uint8_t called = 0, failed = 0;
static volatile bool is_busy = false, holds = false;
static uint8_t got_at = 0;
static const uint8_t GOES_ON = _BV(TWINT) | _BV(TWEN) | _BV(TWIE);

static void bus_stops(uint8_t why) {
  failed = why;
  TWCR = GOES_ON | _BV(TWSTO);
  is_busy = false;
}

ISR(TWI_vect) {
  switch (TWSR & 0xf8) {
    case 0x08:  // started
    case 0x10:
      TWDR = called;
      TWCR = GOES_ON;
      break;
    case 0x18:  // called, or a byte written, and heard
    case 0x28:
      if (at < count) {
        TWDR = bytes[at++];
        TWCR = GOES_ON;
      } else if (holds) {
        TWCR = _BV(TWINT) | _BV(TWSTA) | _BV(TWEN);
        is_busy = false;
      } else {
        bus_stops(0);
      }
      break;
    case 0x50:  // a byte read
      bytes[at++] = TWDR;
      // falls through
    case 0x40:  // called for reading, and heard
      TWCR = at + 1 < count ? GOES_ON | _BV(TWEA) : GOES_ON;
      break;
    case 0x58:  // the last byte read
      bytes[at++] = TWDR;
      bus_stops(0);
      break;
    case 0x20:
    case 0x48:
      bus_stops(2);
      break;
    default:
      bus_stops(3);
  }
}

static uint8_t bus_does(uint8_t call, bool stays) {
  const bool was_held = holds;
  called = call;
  failed = at = 0;
  holds = stays;
  is_busy = true;
  if (was_held) {
    TWDR = call;
    TWCR = GOES_ON;
  } else {
    TWCR = GOES_ON | _BV(TWSTA);
  }
  for (const uint32_t begun = micros(); is_busy;) {
    if (micros() - begun > 3000) {
      TWCR = 0;
      is_busy = holds = false;
      return 5;
    }
  }
  if (failed) holds = false;
  return failed;
}

void Bus::begin() { setClock(100000); }
void Bus::setClock(uint32_t hz) {
  TWSR = 0;
  TWBR = (F_CPU / hz - 16) / 2;
}
void Bus::setWireTimeout(uint32_t, bool) {}
void Bus::beginTransmission(uint8_t address) {
  called = address << 1;
  count = 0;
}
void Bus::write(uint8_t byte) {
  if (count < sizeof(bytes)) bytes[count++] = byte;
}
uint8_t Bus::endTransmission(bool stops) { return bus_does(called, !stops); }
uint8_t Bus::requestFrom(uint8_t address, uint8_t wanted) {
  count = wanted < sizeof(bytes) ? wanted : sizeof(bytes);
  got_at = 0;
  if (bus_does(address << 1 | 1, false) != 0) count = 0;
  return count;
}
int Bus::read() { return got_at < count ? bytes[got_at++] : -1; }

int main() {
  TCCR0A = 0;
  TCCR0B = _BV(CS01) | _BV(CS00);
  TIMSK0 = _BV(TOIE0);
  sei();
  setup();
  for (;;) loop();
}
