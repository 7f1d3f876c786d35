/* SPDX-License-Identifier: MIT */
/* A bicycle light that comes on by itself: plain C on the rules alone, no gate file, on the simulated board.
 *
 * It shines at dusk, and while it is dark a jolt (a kerb, a stop) makes the rear light flash brighter for two seconds,
 * then waits until the road has been steady. On a real bicycle the port is another file; main() stays as it is.
 */
#include <ficklegate.h>
#include <ficklegate/sim.h>

#include <inttypes.h>
#include <stdio.h>

enum { DAYLIGHT, JOLT, INPUTS }; /* lux; thousandths of g */
enum { FRONT, REAR, OUTPUTS };
enum { STEP_MS = 100, RIDE_MS = 60000 };

/* Dark under 30 lx, light again over 60: a street lamp on the way does not make it flicker. */
static const fg_hysteresis dusk = FG_HYSTERESIS_ON_UNDER(30, 60);
/* A jolt is 400 mg away from rest; it must be steady (back under 250) before the next one counts. */
static const fg_threshold jolted = FG_THRESHOLD_OVER(400, 150);

static const fg_level off = {.form = FG_FORM_OFF};
static const fg_level low = {.form = FG_FORM_ON, .percent = 40};
static const fg_level full = {.form = FG_FORM_ON, .percent = 100};

typedef struct light {
    fg_hysteresis_state dusk;
    fg_threshold_state jolted;
    fg_level at[OUTPUTS];
} light;

static void bring(const fg_port *port, light *l, uint16_t output, const fg_level *level)
{
    if (fg_level_same(&l->at[output], level)) return;
    l->at[output] = *level;
    port->write_output(port->context, output, level);
}

/* One step: two readings in, two lights out. A reading that is not there switches nothing on. */
static void ride(const fg_port *port, light *l)
{
    const fg_time now = port->now_ms(port->context);
    fg_reading daylight = {.kind = FG_READING_NONE}, jolt = {.kind = FG_READING_NONE};
    port->read_input(port->context, DAYLIGHT, &daylight);
    port->read_input(port->context, JOLT, &jolt);
    fg_verdict dark = daylight.kind == FG_READING_VALUE ? fg_hysteresis_step(&dusk, &l->dusk, daylight.value, now)
                                                        : fg_hysteresis_fault(&l->dusk);
    fg_verdict bump = jolt.kind == FG_READING_VALUE ? fg_threshold_step(&jolted, &l->jolted, jolt.value, now)
                                                    : fg_threshold_fault(&l->jolted);
    bring(port, l, FRONT, dark == FG_YES ? &full : &off);
    bring(port, l, REAR, fg_and(dark, bump) == FG_YES ? &full : dark == FG_YES ? &low : &off);
}

/* A made-up minute: it gets dark, a street lamp passes at 20 s, kerbs at 30 s and 45 s, the light gauge fails at 50 s.
 */
static void play(fg_sim *sim)
{
    const fg_time t = sim->now;
    fg_value daylight = 90 - (fg_value)(t / 200), jolt = (fg_value)(t / STEP_MS % 7) * 20;
    if (daylight < 4) daylight = 4;
    if (t >= 20000 && t < 21000) daylight = 50;
    if ((t >= 30000 && t < 30500) || t == 45000) jolt = 480;
    if (t >= 30500 && t < 32000) jolt = 300;
    bool failed = t >= 50000 && t < 52000;
    (void)fg_sim_put(sim, DAYLIGHT, failed ? FG_READING_FAULT : FG_READING_VALUE, daylight, t);
    (void)fg_sim_put(sim, JOLT, FG_READING_VALUE, jolt, t);
}

int main(void)
{
    static const char *const names[] = {"front", "rear"};
    fg_reading inputs[INPUTS];
    fg_level outputs[OUTPUTS];
    fg_sim_event events[64];
    fg_sim sim = {.inputs = inputs,
                  .input_count = INPUTS,
                  .outputs = outputs,
                  .output_count = OUTPUTS,
                  .events = events,
                  .event_room = 64};
    light l = {0};
    fg_sim_start(&sim, 0);
    const fg_port port = fg_sim_port(&sim);
    for (; sim.now <= RIDE_MS; sim.now += STEP_MS) {
        play(&sim);
        ride(&port, &l);
    }
    for (size_t i = 0; i < sim.event_count && i < sim.event_room; i++) {
        const fg_sim_event *e = &events[i];
        printf("%6.1f s  %-5s  %u %%\n", (double)e->at / 1000, names[e->output], (unsigned)e->level.percent);
    }
    return 0;
}
