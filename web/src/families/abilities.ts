/** What a pin can do: as in the file, in few letters, and in words. */
export const ABILITIES = [
  { ability: "digital_in", short: "in", words: "digital input" },
  { ability: "digital_out", short: "out", words: "digital output" },
  { ability: "analogue", short: "analogue", words: "analogue input" },
  { ability: "pwm", short: "PWM", words: "PWM output" },
  { ability: "interrupt", short: "interrupt", words: "external interrupt" },
  { ability: "sda", short: "SDA", words: "I²C data (SDA)" },
  { ability: "scl", short: "SCL", words: "I²C clock (SCL)" },
] as const;
