// What programs in the dialect of setup and loop call, for the proof: the same words with the same
// meaning, written anew for the simulated chip. A program on a person's board uses their own.
#pragma once

#include <avr/interrupt.h>
#include <avr/io.h>
#include <avr/pgmspace.h>
#include <stdbool.h>
#include <stdint.h>

#define HIGH 1
#define LOW 0
#define INPUT 0
#define OUTPUT 1
#define INPUT_PULLUP 2
#define CHANGE 1
#define FALLING 2
#define RISING 3
#define DEFAULT 1
#define EXTERNAL 0
#define INTERNAL 3

static const uint8_t A0 = 14, A1 = 15, A2 = 16, A3 = 17, A4 = 18, A5 = 19, A6 = 20, A7 = 21;

#define bit(n) (1UL << (n))
#define interrupts() sei()
#define noInterrupts() cli()
#define digitalPinToInterrupt(pin) ((pin) == 2 ? 0 : ((pin) == 3 ? 1 : -1))
#define digitalPinToPort(pin) ((pin) < 8 ? 'D' : ((pin) < 14 ? 'B' : 'C'))
#define digitalPinToBitMask(pin) \
  static_cast<uint8_t>(1 << ((pin) < 8 ? (pin) : ((pin) < 14 ? (pin) - 8 : (pin) - 14)))
#define portModeRegister(port) ((port) == 'D' ? &DDRD : ((port) == 'B' ? &DDRB : &DDRC))
#define portOutputRegister(port) ((port) == 'D' ? &PORTD : ((port) == 'B' ? &PORTB : &PORTC))
#define portInputRegister(port) ((port) == 'D' ? &PIND : ((port) == 'B' ? &PINB : &PINC))
#define digitalPinToPCICR(pin) (&PCICR)
#define digitalPinToPCICRbit(pin) ((pin) < 8 ? 2 : ((pin) < 14 ? 0 : 1))
#define digitalPinToPCMSK(pin) ((pin) < 8 ? &PCMSK2 : ((pin) < 14 ? &PCMSK0 : &PCMSK1))
#define digitalPinToPCMSKbit(pin) ((pin) < 8 ? (pin) : ((pin) < 14 ? (pin) - 8 : (pin) - 14))

uint32_t micros();
uint32_t millis();
void delay(uint32_t ms);
void delayMicroseconds(uint16_t us);
void pinMode(uint8_t pin, uint8_t mode);
void digitalWrite(uint8_t pin, uint8_t level);
int digitalRead(uint8_t pin);
void analogReference(uint8_t mode);
int analogRead(uint8_t pin);
void analogWrite(uint8_t pin, int value);
void attachInterrupt(uint8_t number, void (*run)(), int mode);

class __FlashStringHelper;
#define F(text) (reinterpret_cast<const __FlashStringHelper *>(PSTR(text)))

class Line {
 public:
  void begin(uint32_t baud);
  int read();
  void write(uint8_t byte);
  void print(char one);
  void print(const char *text);
  void print(const __FlashStringHelper *text);
  void print(uint8_t value);
  void print(int value);
  void print(unsigned value);
  void print(long value);
  void print(unsigned long value);
  void print(double value, uint8_t decimals = 2);
  void println();
  void println(const __FlashStringHelper *text);
  void flush();
};
extern Line Serial;
