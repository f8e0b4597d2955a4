// The I²C bus for the proof; see core.h.
#pragma once

#include "core.h"

#define WIRE_HAS_TIMEOUT

class Bus {
 public:
  void begin();
  void setClock(uint32_t hz);
  void setWireTimeout(uint32_t us, bool resets);
  void beginTransmission(uint8_t address);
  void write(uint8_t byte);
  uint8_t endTransmission(bool stops = true);
  uint8_t requestFrom(uint8_t address, uint8_t count);
  int read();
};
extern Bus Wire;
