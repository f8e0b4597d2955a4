/* The simulated chip on its bench: pins, converter, bus and serial line, driven by a script.

   bench CHIP PROGRAM.elf WHAT-IT-PRINTS < script
   bench find LAST-ADDRESS-OF-FLASH LAST-ADDRESS-OF-RAM

   A line of the script says one thing; all numbers are decimal, times in µs:
     run US                     how long
     ranger P T Q E W...        trigger on port P bit T, echo on port Q bit E; widths, one a ping;
                                0: no answer. The same port and bit twice: one lead for both
     level P B US LEVEL         a pin is driven to a level at a time
     volts CHANNEL US MILLIVOLT a converter input from a time on
     unit ADDRESS FIRST HEX...  a unit on the bus; what it gives when read from register FIRST
     one-wire P B CODE...       a thermometer; one code a conversion
     one-word P B HEX...        a unit that answers a long low with a word of 40 bits
     say US CHARACTER           a byte that comes in on the line
   At its end it says on the error line what was written to units, the cycles, and the deepest stack. */

#include <simavr/avr_adc.h>
#include <simavr/avr_ioport.h>
#include <simavr/avr_twi.h>
#include <simavr/avr_uart.h>
#include <simavr/sim_avr.h>
#include <simavr/sim_elf.h>
#include <stdio.h>
#include <stdlib.h>
#include <string.h>

enum { MOST = 8, MOST_VALUES = 4096 };

static avr_t *chip;
static FILE *printed;

/* Rangers. */
struct ranger {
  avr_irq_t *echo;
  int is_one_lead, was_high, is_answering, count, at;
  avr_cycle_count_t rose;
  int widths[MOST_VALUES];
};
static struct ranger rangers[MOST];
static int ranger_count;

static avr_cycle_count_t echo_ends(avr_t *avr, avr_cycle_count_t when, void *param) {
  struct ranger *one = param;
  avr_raise_irq(one->echo, 0);
  one->is_answering = 0;
  (void)avr, (void)when;
  return 0;
}
static avr_cycle_count_t echo_begins(avr_t *avr, avr_cycle_count_t when, void *param) {
  struct ranger *one = param;
  int width = one->widths[one->at];
  if (one->at + 1 < one->count) one->at++;
  if (width == 0) {
    one->is_answering = 0;
    return 0;
  }
  avr_raise_irq(one->echo, 1);
  avr_cycle_timer_register_usec(avr, width, echo_ends, one);
  (void)when;
  return 0;
}
static void triggered(avr_irq_t *irq, uint32_t value, void *param) {
  struct ranger *one = param;
  if (one->is_answering) return;
  if (value && !one->was_high) one->rose = chip->cycle;
  if (!value && one->was_high && chip->cycle - one->rose >= 8 * 16) {
    one->is_answering = 1;
    avr_cycle_timer_register_usec(chip, 450, echo_begins, one);
  }
  one->was_high = value != 0;
  (void)irq;
}

/* Levels, volts and bytes at times. */
struct event {
  avr_irq_t *irq;
  uint32_t value;
};
static avr_cycle_count_t happens(avr_t *avr, avr_cycle_count_t when, void *param) {
  struct event *one = param;
  avr_raise_irq(one->irq, one->value);
  (void)avr, (void)when;
  return 0;
}
/* The simulator keeps few timers at once, so events wait in a list of their own. */
struct planned {
  avr_cycle_count_t at;
  struct event event;
};
static struct planned *plan;
static int plan_count, plan_at, plan_room;
static void planned_for(double us, avr_irq_t *irq, uint32_t value) {
  if (plan_count == plan_room) plan = realloc(plan, (plan_room = 2 * plan_room + 64) * sizeof *plan);
  plan[plan_count].at = (avr_cycle_count_t)(us * 16.0);
  plan[plan_count].event.irq = irq;
  plan[plan_count++].event.value = value;
}
static int earlier(const void *a, const void *b) {
  const struct planned *one = a, *other = b;
  return one->at < other->at ? -1 : one->at > other->at;
}

/* Units on the bus. */
struct unit {
  uint8_t address, first, pointer, selected;
  int index, block, blocks, size, is_pointed;
  uint8_t data[MOST_VALUES];
};
static struct unit units[MOST];
static int unit_count;
static avr_irq_t *bus;

static uint8_t given_by(struct unit *one) {
  int at = one->pointer++ - one->first;
  if (at < 0 || at >= one->size) return 0;
  uint8_t value = one->data[one->block * one->size + at];
  if (at + 1 == one->size && one->block + 1 < one->blocks) one->block++;
  return value;
}
static void bus_says(avr_irq_t *irq, uint32_t value, void *param) {
  struct unit *one = param;
  avr_twi_msg_irq_t v;
  v.u.v = value;
  if (v.u.twi.msg & TWI_COND_STOP) one->selected = 0;
  if (v.u.twi.msg & TWI_COND_START) {
    one->selected = 0;
    one->index = 0;
    if (v.u.twi.addr >> 1 == one->address) {
      one->selected = v.u.twi.addr;
      avr_raise_irq(bus + TWI_IRQ_INPUT, avr_twi_irq_msg(TWI_COND_ACK, one->selected, 1));
    }
  }
  if (!one->selected) return;
  if (v.u.twi.msg & TWI_COND_WRITE) {
    avr_raise_irq(bus + TWI_IRQ_INPUT, avr_twi_irq_msg(TWI_COND_ACK, one->selected, 1));
    if (one->index++ == 0) {
      one->pointer = v.u.twi.data;
    } else {
      fprintf(stderr, "written %d %d %d\n", one->address, one->pointer++, v.u.twi.data);
    }
  }
  if (v.u.twi.msg & TWI_COND_READ) {
    avr_raise_irq(bus + TWI_IRQ_INPUT, avr_twi_irq_msg(TWI_COND_READ, one->selected, given_by(one)));
  }
  (void)irq;
}

/* A thermometer on one lead: told from its low times what the master says. */
struct thermometer {
  avr_irq_t *pin;
  int bit, is_low, bits, is_reading, at, count, holds;
  uint16_t word;
  avr_cycle_count_t fell;
  int16_t codes[MOST_VALUES];
};
static struct thermometer thermometers[MOST];
static int thermometer_count;

static avr_cycle_count_t lets_go(avr_t *avr, avr_cycle_count_t when, void *param) {
  struct thermometer *one = param;
  one->holds = 0;
  if (!one->is_low) avr_raise_irq(one->pin, 1);
  (void)avr, (void)when;
  return 0;
}
static avr_cycle_count_t is_present(avr_t *avr, avr_cycle_count_t when, void *param) {
  struct thermometer *one = param;
  one->holds = 1;
  avr_raise_irq(one->pin, 0);
  avr_cycle_timer_register_usec(avr, 100, lets_go, one);
  (void)when;
  return 0;
}
static void one_wire_moves(avr_irq_t *irq, uint32_t value, void *param) {
  struct thermometer *one = param;
  int is_low = value >> one->bit & 1; /* an output, and its port bit is kept low */
  (void)irq;
  if (is_low == one->is_low) return;
  one->is_low = is_low;
  if (is_low) {
    one->fell = chip->cycle;
    if (one->is_reading) {
      int told = one->word & 1;
      one->word >>= 1;
      if (--one->is_reading == 0) one->bits = 0;
      if (!told) {
        one->holds = 1;
        avr_cycle_timer_register_usec(chip, 30, lets_go, one);
      }
      one->bits = -1; /* the master's own low of this bit says nothing */
    }
    return;
  }
  int low_us = (int)((chip->cycle - one->fell) / 16);
  avr_raise_irq(one->pin, one->holds ? 0 : 1);
  if (low_us >= 400) {
    one->bits = one->word = one->is_reading = 0;
    avr_cycle_timer_register_usec(chip, 30, is_present, one);
    return;
  }
  if (one->bits < 0) {
    one->bits = 0;
    return;
  }
  if (one->is_reading) return;
  one->word = one->word >> 1 | (low_us < 15 ? 0x80 : 0);
  if (++one->bits < 8) return;
  int command = one->word & 0xff;
  one->bits = one->word = 0;
  if (command == 0x44 && one->at + 1 < one->count) one->at++;
  if (command == 0xbe) {
    one->word = (uint16_t)one->codes[one->at];
    one->is_reading = 16;
  }
}

/* A unit that answers a long low with one word of 40 bits. */
struct speaker {
  avr_irq_t *pin;
  int bit, is_low, at, words, edge, is_speaking;
  avr_cycle_count_t fell;
  uint8_t data[MOST_VALUES];
};
static struct speaker speakers[MOST];
static int speaker_count;

static avr_cycle_count_t speaks(avr_t *avr, avr_cycle_count_t when, void *param) {
  struct speaker *one = param;
  int edge = one->edge++, us;
  if (edge < 3) { /* waits high, then says that it is there: low, high */
    avr_raise_irq(one->pin, edge == 1 ? 1 : 0);
    us = 80;
    if (edge == 2) us = 50, one->edge = 3;
  } else {
    int bit = (edge - 3) / 2, is_high = (edge - 3) % 2 == 0;
    if (bit >= 40) {
      avr_raise_irq(one->pin, 1);
      one->is_speaking = 0;
      if (one->at + 1 < one->words) one->at++;
      return 0;
    }
    avr_raise_irq(one->pin, is_high);
    int told = one->data[one->at * 5 + bit / 8] >> (7 - bit % 8) & 1;
    us = is_high ? (told ? 70 : 26) : 50;
  }
  avr_cycle_timer_register_usec(avr, us, speaks, one);
  (void)when;
  return 0;
}
static void speaker_hears(avr_irq_t *irq, uint32_t value, void *param) {
  struct speaker *one = param;
  int is_low = value >> one->bit & 1;
  (void)irq;
  if (is_low == one->is_low) return;
  one->is_low = is_low;
  if (is_low) {
    one->fell = chip->cycle;
    return;
  }
  avr_raise_irq(one->pin, 1);
  if (chip->cycle - one->fell < 900 * 16 || one->is_speaking) return;
  one->is_speaking = 1;
  one->edge = 0;
  avr_cycle_timer_register_usec(chip, 30, speaks, one);
}

static void line_says(avr_irq_t *irq, uint32_t value, void *param) {
  fputc((int)value, printed);
  (void)irq, (void)param;
}
static avr_irq_t *pin_of(char port, int bit) {
  return avr_io_getirq(chip, AVR_IOCTL_IOPORT_GETIRQ(port), bit);
}

static int obey(char *text, double *run_us) {
  char port, other;
  int bit, more, used;
  double us;
  if (sscanf(text, "run %lf", run_us) == 1) return 1;
  if (sscanf(text, "ranger %c %d %c %d%n", &port, &bit, &other, &more, &used) == 4) {
    struct ranger *one = &rangers[ranger_count++];
    one->echo = pin_of(other, more);
    one->is_one_lead = port == other && bit == more;
    for (char *at = text + used; one->count < MOST_VALUES; one->count++) {
      char *end;
      long width = strtol(at, &end, 10);
      if (end == at) break;
      one->widths[one->count] = (int)width;
      at = end;
    }
    avr_irq_register_notify(pin_of(port, bit), triggered, one);
    return 1;
  }
  if (sscanf(text, "level %c %d %lf %d", &port, &bit, &us, &more) == 4) {
    planned_for(us, pin_of(port, bit), more);
    return 1;
  }
  if (sscanf(text, "volts %d %lf %d", &bit, &us, &more) == 3) {
    planned_for(us, avr_io_getirq(chip, AVR_IOCTL_ADC_GETIRQ, ADC_IRQ_ADC0 + bit), more);
    return 1;
  }
  if (sscanf(text, "unit %d %d%n", &bit, &more, &used) == 2) {
    struct unit *one = &units[unit_count++];
    one->address = bit;
    one->first = more;
    int total = 0;
    for (char *word = strtok(text + used, " \n"); word; word = strtok(NULL, " \n")) {
      one->size = (int)strlen(word) / 2;
      one->blocks++;
      for (int n = 0; n < one->size && total < MOST_VALUES; n++) {
        char two[3] = {word[2 * n], word[2 * n + 1], 0};
        one->data[total++] = (uint8_t)strtol(two, NULL, 16);
      }
    }
    avr_irq_register_notify(bus + TWI_IRQ_OUTPUT, bus_says, one);
    return 1;
  }
  if (sscanf(text, "one-wire %c %d%n", &port, &bit, &used) == 2) {
    struct thermometer *one = &thermometers[thermometer_count++];
    one->pin = pin_of(port, bit);
    one->bit = bit;
    one->at = -1;
    for (char *at = text + used; one->count < MOST_VALUES; one->count++) {
      char *end;
      long code = strtol(at, &end, 10);
      if (end == at) break;
      one->codes[one->count] = (int16_t)code;
      at = end;
    }
    avr_irq_register_notify(pin_of(port, IOPORT_IRQ_DIRECTION_ALL), one_wire_moves, one);
    planned_for(0.0, one->pin, 1);
    return 1;
  }
  if (sscanf(text, "one-word %c %d%n", &port, &bit, &used) == 2) {
    struct speaker *one = &speakers[speaker_count++];
    one->pin = pin_of(port, bit);
    one->bit = bit;
    for (char *word = strtok(text + used, " \n"); word && one->words < 64; word = strtok(NULL, " \n")) {
      for (int n = 0; n < 5; n++) {
        char two[3] = {word[2 * n], word[2 * n + 1], 0};
        one->data[one->words * 5 + n] = (uint8_t)strtol(two, NULL, 16);
      }
      one->words++;
    }
    avr_irq_register_notify(pin_of(port, IOPORT_IRQ_DIRECTION_ALL), speaker_hears, one);
    planned_for(0.0, one->pin, 1);
    return 1;
  }
  if (sscanf(text, "say %lf %c", &us, &port) == 2) {
    planned_for(us, avr_io_getirq(chip, AVR_IOCTL_UART_GETIRQ('0'), UART_IRQ_INPUT), port);
    return 1;
  }
  return text[0] == '\n' || text[0] == 0;
}

/* The first chip the simulator knows whose memories end there and whose ports begin with B, as those
   of the small boards do; its name is printed. */
extern avr_kind_t *avr_kind[];
static int find(uint32_t flash_end, uint16_t ram_end) {
  for (int n = 0; avr_kind[n]; n++) {
    avr_t *one = avr_kind[n]->make();
    if (one->flashend != flash_end || one->ramend != ram_end) continue;
    avr_init(one);
    if (avr_io_getirq(one, AVR_IOCTL_IOPORT_GETIRQ('A'), 0)) continue;
    return puts(avr_kind[n]->names[0]) < 0;
  }
  return 4;
}

int main(int count, char **words) {
  if (count == 4 && !strcmp(words[1], "find"))
    return find((uint32_t)strtoul(words[2], NULL, 0), (uint16_t)strtoul(words[3], NULL, 0));
  if (count != 4 || !(printed = fopen(words[3], "wb"))) return 2;
  static elf_firmware_t program;
  if (elf_read_firmware(words[2], &program) != 0) return 3;
  chip = avr_make_mcu_by_name(words[1]);
  if (!chip) return 4;
  avr_init(chip);
  avr_load_firmware(chip, &program);
  chip->frequency = 16000000;
  chip->vcc = chip->avcc = chip->aref = 5000;
  chip->log = LOG_NONE;
  uint32_t flags = 0;
  avr_ioctl(chip, AVR_IOCTL_UART_GET_FLAGS('0'), &flags);
  flags &= ~(AVR_UART_FLAG_STDIO | AVR_UART_FLAG_POOL_SLEEP);
  avr_ioctl(chip, AVR_IOCTL_UART_SET_FLAGS('0'), &flags);
  bus = avr_io_getirq(chip, AVR_IOCTL_TWI_GETIRQ(0), 0);
  avr_irq_register_notify(avr_io_getirq(chip, AVR_IOCTL_UART_GETIRQ('0'), UART_IRQ_OUTPUT), line_says, NULL);

  static char text[1 << 20];
  double run_us = 0.0;
  while (fgets(text, sizeof text, stdin)) {
    if (!obey(text, &run_us)) {
      fprintf(stderr, "not understood: %s", text);
      return 5;
    }
  }
  qsort(plan, plan_count, sizeof *plan, earlier);
  const avr_cycle_count_t end = (avr_cycle_count_t)(run_us * 16.0);
  unsigned deepest = chip->ramend;
  while (chip->cycle < end) {
    while (plan_at < plan_count && plan[plan_at].at <= chip->cycle) {
      happens(chip, chip->cycle, &plan[plan_at++].event);
    }
    int state = avr_run(chip);
    if (state == cpu_Done || state == cpu_Crashed) {
      fprintf(stderr, "crashed at cycle %llu\n", (unsigned long long)chip->cycle);
      return 6;
    }
    unsigned stack = chip->data[R_SPL] | chip->data[R_SPH] << 8;
    if (stack > 0x100 && stack < deepest) deepest = stack;
  }
  fprintf(stderr, "cycles %llu\nstack %u\n", (unsigned long long)chip->cycle, chip->ramend - deepest);
  return 0;
}
