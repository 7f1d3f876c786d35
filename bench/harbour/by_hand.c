/* SPDX-License-Identifier: MIT */
/* examples/harbour/harbour.gate by hand: no library, no floats (a board has no unit for them), no rules in tables, each
 * thing written where it is needed. It relies on every row having every cell, writes a text only when what it shows
 * changes, and compares squares instead of taking a root. */
#include "by_hand.h"

#include <stdio.h>
#include <string.h>

typedef struct {
    int32_t values[64];
    uint8_t count, head;
} ring;

typedef struct {
    uint8_t is, next; /* what is believed; what waits, or `is` */
    uint32_t since;
    int32_t began;
} settling;

typedef struct {
    uint32_t elapsed;
    uint8_t part, run;
    bool begun;
} tune;

static struct {
    ring depth, bilge, rates, rate, waves;
    uint32_t rate_times[64];
    int32_t good_depth;
    uint32_t good_depth_at;
    bool good_depth_known;
    uint32_t vane_since;
    int32_t vane_was;
    bool vane_known;
    int32_t zero_x, zero_y;
    uint8_t level_sure, level_good;
    uint32_t level_good_at;
    settling ack, tide, gale, swell;
    uint8_t wind_from, list, pumping, rough, was_onshore;
    uint32_t flooding_since, aground_since;
    bool flooding_waits, aground_waits;
    uint8_t waiting_last, ack_last, landing_last, boat_last, again_last, alarm_last;
    bool alarm, greeting, greeting_spent;
    int32_t landings;
    uint32_t greeting_since, greeting_length;
    uint8_t red_row, horn_row, staff_row;
    uint32_t then, flash, sweep, tempo, tempo_length;
    uint8_t tempo_part;
    uint32_t call;
    int32_t beacon, winch, flagstaff;
    uint32_t board_key;
    bool begun;
} s;

static answer sure(bool yes) { return yes ? YES : NO; }
static answer both(answer a, answer b) { return ((a | b) & NO) ? NO : (a & b); }
static answer either(answer a, answer b) { return ((a | b) & YES) ? YES : (a & b); }
static answer negated(answer a) { return a == UNSURE ? UNSURE : a == YES ? NO : YES; }

static int32_t divided(int64_t a, int64_t by) { return (int32_t)((a < 0 ? a - by / 2 : a + by / 2) / by); }

static void put(ring *r, int32_t value, uint8_t size)
{
    r->values[r->head] = value;
    r->head = (uint8_t)(r->head + 1 < size ? r->head + 1 : 0);
    if (r->count < size) r->count++;
}

static int32_t median(const ring *r)
{
    int32_t sorted[5] = {0};
    for (int i = 0; i < r->count; i++) {
        int at = i;
        for (; at && sorted[at - 1] > r->values[i]; at--) sorted[at] = sorted[at - 1];
        sorted[at] = r->values[i];
    }
    return sorted[(r->count - 1) / 2];
}

static uint8_t settle(settling *w, uint8_t out, uint32_t now, uint32_t time)
{
    if (out == w->is) {
        w->next = out;
        return out;
    }
    if (out != w->next) {
        w->next = out;
        w->since = now;
    }
    if (now - w->since >= time) w->is = out;
    return w->is;
}

static void forget(settling *w) { w->is = w->next = UNSURE; }

/* Did it turn from no to yes (or back)? */
static answer turned_to(uint8_t *last, answer now, answer to)
{
    if (now == UNSURE) return UNSURE;
    const bool turned = now == to && *last != UNSURE && *last != (uint8_t)now;
    *last = (uint8_t)now;
    return sure(turned);
}

void harbour_start(void)
{
    memset(&s, 0, sizeof s);
    s.flagstaff = 15;
}

/* ---- what is sensed ---- */

static int32_t depth, bilge, wind, vane, rising, crest, squares, heel;
static bool depth_ok, bilge_ok, wind_ok, vane_ok, rock_ok[3], heel_ok, rising_ok, crest_ok;
static answer key, ack, level, boat;

static void sense_depth(const harbour_row *r)
{
    depth = divided((int64_t)r->value[DEPTH] * 2500, 1023);
    depth_ok = !r->bad[DEPTH] && depth >= 40 && depth <= 2460;
    if (depth_ok) {
        s.good_depth = depth;
        s.good_depth_at = r->now;
        s.good_depth_known = true;
    } else if (s.good_depth_known && r->now - s.good_depth_at <= 1000) {
        depth = s.good_depth;
        depth_ok = true;
    } else {
        s.good_depth_known = false;
        s.depth.count = s.depth.head = 0;
    }
    if (!depth_ok) return;
    put(&s.depth, depth, 5);
    depth = median(&s.depth);
}

/* How fast the water rises, and how high the waves are, from the last depths. */
static void sense_waves(const harbour_row *r)
{
    rising_ok = crest_ok = false;
    if (!depth_ok) {
        s.rates.count = s.rates.head = s.waves.count = s.waves.head = s.rate.count = s.rate.head = 0;
        return;
    }
    s.rate_times[s.rates.head] = r->now;
    put(&s.rates, depth, 50);
    put(&s.waves, depth, 20);
    int32_t low = INT32_MAX, high = INT32_MIN;
    for (int i = 0; i < s.waves.count; i++) {
        if (s.waves.values[i] < low) low = s.waves.values[i];
        if (s.waves.values[i] > high) high = s.waves.values[i];
    }
    crest = high - low;
    crest_ok = true;
    rising_ok = s.rates.count > 1;
    if (!rising_ok) return;
    const int oldest = s.rates.count < 50 ? 0 : s.rates.head;
    put(&s.rate, divided((int64_t)(depth - s.rates.values[oldest]) * 60000, r->now - s.rate_times[oldest]), 5);
    rising = median(&s.rate);
}

static void sense_bilge_and_wind(const harbour_row *r)
{
    bilge_ok = !r->bad[BILGE];
    if (!bilge_ok) s.bilge.count = s.bilge.head = 0;
    if (bilge_ok) {
        int32_t sum = 0;
        put(&s.bilge, r->value[BILGE], 4);
        for (int i = 0; i < s.bilge.count; i++) sum += s.bilge.values[i];
        bilge = divided(sum, s.bilge.count);
    }
    if (r->value[WIND] <= 400)
        wind = divided((int64_t)(r->value[WIND] - 120) * 3, 7);
    else
        wind = 120 + divided((int64_t)(r->value[WIND] - 400) * 9, 25);
    wind_ok = !r->bad[WIND] && wind >= 0 && wind <= 400;

    vane = r->value[VANE] % 360;
    if (vane < 0) vane += 360;
    vane_ok = !r->bad[VANE];
    if (vane_ok && (!s.vane_known || s.vane_was != r->value[VANE])) {
        s.vane_known = true;
        s.vane_was = r->value[VANE];
        s.vane_since = r->now;
    }
    vane_ok = vane_ok && r->now - s.vane_since < 60000;
}

static void sense_flags(const harbour_row *r)
{
    key = r->flag[KEY];
    boat = r->flag[BOAT];
    if (r->flag[ACK] == UNSURE) {
        forget(&s.ack);
        ack = UNSURE;
    } else {
        ack = settle(&s.ack, r->flag[ACK], r->now, 100);
    }
    level = negated(r->flag[LEVEL]);
    if (level != UNSURE) {
        s.level_good = (uint8_t)level;
        s.level_good_at = r->now;
    } else if (s.level_good != UNSURE) {
        if (r->now - s.level_good_at > 300) s.level_good = UNSURE;
        level = s.level_good;
    }
}

/* The angle of (x, y): CORDIC in 32 bits, good for a hundredth of a degree. */
static int32_t tenths_of_a_degree(int32_t y, int32_t x)
{
    static const int32_t arcs[14] = {2949120, 1740967, 919879, 466945, 234379, 117304, 58666,
                                     29335,   14668,   7334,   3667,   1833,   917,    458}; /* degrees times 2^16 */
    int32_t angle = x < 0 ? 180 << 16 : 0;
    if (x < 0) {
        x = -x;
        y = -y;
    }
    x *= 1 << 14;
    y *= 1 << 14;
    for (int i = 0; i < 14; i++) {
        const int32_t across = x / (1 << i), up = y / (1 << i);
        x += y < 0 ? -up : up;
        angle += y < 0 ? -arcs[i] : arcs[i];
        y -= y < 0 ? -across : across;
    }
    angle = (angle * 10 + (1 << 15)) / (1 << 16);
    return angle < 0 ? angle + 3600 : angle % 3600;
}

static void sense_rocking(const harbour_row *r)
{
    const bool zero = turned_to(&s.level_sure, level, YES) == YES;
    for (int i = 0; i < 3; i++) rock_ok[i] = !r->bad[ROCK_X + i];
    if (zero && rock_ok[0]) s.zero_x = r->value[ROCK_X];
    if (zero && rock_ok[1]) s.zero_y = r->value[ROCK_Y];
    const int32_t x = r->value[ROCK_X] - s.zero_x, y = r->value[ROCK_Y] - s.zero_y, z = r->value[ROCK_Z];
    squares = x * x + y * y + z * z;
    heel_ok = rock_ok[1] && rock_ok[2] && (y || z);
    if (!heel_ok) return;
    heel = tenths_of_a_degree(y, z);
}

/* ---- what it means ---- */

static void judge_tide(uint32_t now)
{
    static const int32_t cuts[3] = {200, 600, 1400};
    if (!depth_ok) {
        forget(&s.tide);
        return;
    }
    uint8_t out = s.tide.is;
    if (out == UNSURE || (out > AGROUND && depth < cuts[out - 2] - 30) || (out < HIGH && depth >= cuts[out - 1] + 30)) {
        out = AGROUND;
        while (out < HIGH && depth >= cuts[out - 1]) out++;
    }
    (void)settle(&s.tide, out, now, 2000);
}

static uint8_t wind_came_from(void)
{
    const int32_t v = vane;
    switch (s.wind_from) {
    case ONSHORE:
        if (v >= 315 || v < 55) return ONSHORE;
        break;
    case ALONG:
        if ((v >= 45 && v < 145) || (v >= 225 && v < 325)) return ALONG;
        break;
    case OFFSHORE:
        if (v >= 135 && v < 235) return OFFSHORE;
        break;
    default: break;
    }
    if (v < 50 || v >= 320) return ONSHORE;
    return v >= 140 && v < 230 ? OFFSHORE : ALONG;
}

static uint8_t listing(void)
{
    if (s.list == PORT && heel >= 40 && heel <= 910) return PORT;
    if (s.list == STARBOARD && heel >= 2690 && heel <= 3560) return STARBOARD;
    if (heel >= 50 && heel <= 900) return PORT;
    return heel >= 2700 && heel <= 3550 ? STARBOARD : UPRIGHT;
}

static void judge_wind(uint32_t now)
{
    s.wind_from = vane_ok ? wind_came_from() : UNSURE;
    s.list = heel_ok ? listing() : UNSURE;
    if (wind_ok)
        (void)settle(&s.gale, wind > (s.gale.is == YES ? 130 : 140) ? YES : NO, now, 3000);
    else
        forget(&s.gale);
}

static void judge_swell(uint32_t now)
{
    if (!crest_ok) {
        forget(&s.swell);
        return;
    }
    const uint8_t out = crest >= 30 ? YES : NO;
    if (out != s.swell.is && out == s.swell.next && (crest > s.swell.began + 200 || crest < s.swell.began - 200)) {
        s.swell.since = now;
        s.swell.began = crest;
    }
    if (out != s.swell.is && out != s.swell.next) s.swell.began = crest;
    (void)settle(&s.swell, out, now, 1000);
}

static void judge_switches(void)
{
    if (!bilge_ok)
        s.pumping = UNSURE;
    else if (bilge > 120)
        s.pumping = YES;
    else if (bilge < 50 || s.pumping == UNSURE)
        s.pumping = NO;
    if (!rock_ok[0] || !rock_ok[1] || !rock_ok[2])
        s.rough = UNSURE;
    else if (squares >= 1441201 || (s.rough == UNSURE && squares > 1208900))
        s.rough = YES;
    else if (squares <= 1208900)
        s.rough = NO;
}

static answer lasts(answer now_is, uint32_t now, uint32_t time, uint32_t *since, bool *waits)
{
    if (now_is != YES) {
        *waits = false;
        return now_is;
    }
    if (!*waits) *since = now;
    *waits = true;
    return sure(now - *since >= time);
}

static void step_greeting(uint32_t now, answer may_land, answer storm)
{
    const bool starts = turned_to(&s.boat_last, boat, YES) == YES;
    const bool again = turned_to(&s.again_last, boat, NO) == YES;
    if (s.greeting && (storm != NO || now - s.greeting_since >= s.greeting_length)) {
        s.greeting = false;
        s.greeting_spent = true;
    }
    if (again) s.greeting_spent = false;
    if (!starts || storm != NO || s.greeting || s.greeting_spent) return;
    s.greeting = true;
    s.greeting_since = now;
    s.greeting_length = may_land == YES ? 2000 : 500;
}

/* ---- what is switched ---- */

static int32_t red_level(uint32_t passed, answer may_land, answer alarm)
{
    if (s.red_row) s.flash += passed;
    s.red_row = alarm == YES;
    if (alarm == YES) return s.flash % 1000 < 500 ? LAMP_RED + 100 : 0;
    if (may_land == NO) return 100;
    return may_land == UNSURE || alarm == UNSURE ? 30 : 0;
}

static uint32_t tempo_now(void)
{
    const int32_t w = wind < 140 ? 140 : wind > 300 ? 300 : wind;
    return (uint32_t)divided((int64_t)800 * 160 - (int64_t)600 * (w - 140), 160);
}

enum { HORN_RESTS, HORN_CALL, HORN_TEMPO, HORN_GREETS };

static int32_t tempo_level(uint32_t passed, bool anew)
{
    s.tempo += passed;
    if (anew) {
        s.tempo = s.tempo_part = 0;
        s.tempo_length = tempo_now();
    }
    while (s.tempo >= s.tempo_length) {
        s.tempo -= s.tempo_length;
        s.tempo_part = !s.tempo_part;
        s.tempo_length = s.tempo_part ? 200 : tempo_now();
    }
    return s.tempo_part ? 659 : 440;
}

static int32_t horn_level(uint32_t passed, answer storm, answer alarm_starts)
{
    const uint8_t last = s.horn_row;
    bool calls = alarm_starts == YES && last != HORN_CALL;
    if (calls) s.call = 0;
    if (last == HORN_CALL) {
        s.call += passed;
        calls = s.call < 1500;
    }
    if (calls)
        s.horn_row = HORN_CALL;
    else if (storm == YES && wind_ok)
        s.horn_row = HORN_TEMPO;
    else
        s.horn_row = s.greeting ? HORN_GREETS : HORN_RESTS;
    switch (s.horn_row) {
    case HORN_CALL: return s.call % 500 < 300 ? 880 : 0;
    case HORN_TEMPO: return tempo_level(passed, last != HORN_TEMPO);
    case HORN_GREETS: return HORN_HALF + 523;
    default: return 0;
    }
}

static int32_t flagstaff_level(uint32_t passed, answer storm)
{
    if (s.staff_row) s.sweep += passed;
    s.staff_row = storm == YES;
    if (storm == UNSURE) return s.flagstaff;
    if (storm == NO) return 15 + divided((int64_t)150 * s.landings, 8);
    s.sweep %= 4000;
    return s.sweep < 2000 ? divided((int64_t)60 * 2000 + (int64_t)60 * s.sweep, 2000)
                          : divided((int64_t)120 * 2000 - (int64_t)60 * (s.sweep - 2000), 2000);
}

static int32_t gauge_level(void)
{
    if (s.tide.is == HIGH) return GAUGE_LIGHT + 10;
    if (s.tide.is == AGROUND || !depth_ok) return 0;
    const int32_t d = depth < 200 ? 200 : depth > 1400 ? 1400 : depth;
    return 1 + divided((int64_t)8 * (d - 200), 1200);
}

static void write_board(harbour_answers *a, answer turned)
{
    static const char *const tides[] = {"?", "dry", "shallow", "fair", "high"};
    static const char *const winds[] = {"?", "->", "along", "<-"};
    const uint32_t kind = s.gale.is == YES ? 1 : s.gale.is == UNSURE ? 2 : turned == YES ? 3 : 4;
    uint32_t board = kind << 24;
    if (kind == 1) board |= s.wind_from;
    if (kind == 4) board |= (uint32_t)(s.tide.is << 16 | s.landings << 8 | (a->is[IS_PUMP] + 100));
    if (board == s.board_key) return;
    s.board_key = board;
    a->is[IS_BOARD]++;
    a->board_lines = kind == 3 ? 0 : 2;
    if (kind == 1) {
        snprintf(a->board[0], sizeof a->board[0], "%s", "GALE, over 14 m/s");
        snprintf(a->board[1], sizeof a->board[1], "from %s", winds[s.wind_from]);
    } else if (kind == 2) {
        snprintf(a->board[0], sizeof a->board[0], "%s", "?");
        snprintf(a->board[1], sizeof a->board[1], "%s", "look at the sensors");
    } else if (kind == 4) {
        const int32_t pump = a->is[IS_PUMP];
        snprintf(a->board[0], sizeof a->board[0], "%s", tides[s.tide.is]);
        if (pump)
            snprintf(a->board[1], sizeof a->board[1], "landed %d {%s", (int)s.landings & 15,
                     pump > 0 ? "forward 80%}" : "back 20%}");
        else
            snprintf(a->board[1], sizeof a->board[1], "landed %d {stop}", (int)s.landings & 15);
    }
}

/* ---- a step ---- */

static void tell_sensors(int32_t *is)
{
    is[IS_DEPTH] = sure(depth_ok);
    is[IS_BILGE] = sure(bilge_ok);
    is[IS_WIND] = sure(wind_ok);
    is[IS_VANE] = sure(vane_ok);
    for (int i = 0; i < 3; i++) is[IS_ROCK_X + i] = sure(rock_ok[i]);
    is[IS_ROCKING] = sure(rock_ok[0] && rock_ok[1] && rock_ok[2]);
    is[IS_HEEL] = sure(heel_ok);
    is[IS_RISING] = sure(rising_ok);
    is[IS_CREST] = sure(crest_ok);
    is[IS_KEY] = key;
    is[IS_ACK] = ack;
    is[IS_LEVEL] = level;
    is[IS_BOAT] = boat;
}

static answer tide_is(uint8_t a, uint8_t b)
{
    return s.tide.is == UNSURE ? UNSURE : sure(s.tide.is == a || s.tide.is == b);
}

static answer two_of(const answer *of)
{
    int yes = 0, open = 0;
    for (int i = 0; i < 4; i++) {
        yes += of[i] == YES;
        open += of[i] == UNSURE;
    }
    return yes >= 2 ? YES : yes + open < 2 ? NO : UNSURE;
}

static void step_landings(answer may_land)
{
    const bool lands = turned_to(&s.landing_last, both(boat, may_land), YES) == YES;
    if (ack == YES)
        s.landings = 0;
    else if (lands && s.begun && s.landings < 8)
        s.landings++;
}

static void switch_outputs(harbour_answers *a, uint32_t now)
{
    int32_t *is = a->is;
    const answer may_land = is[IS_MAY_LAND], storm = is[IS_STORM], gale = is[IS_GALE];
    const answer closes = either(gale, tide_is(AGROUND, AGROUND)), flooding = is[IS_FLOODING];
    const answer back = both(flooding, negated(s.rough));
    const uint32_t passed = s.begun ? now - s.then : 0;
    const answer alarm_starts = turned_to(&s.alarm_last, (answer)is[IS_ALARM], YES);
    is[IS_GREEN] = may_land == YES ? 100 : may_land == UNSURE ? LAMP_AMBER + 40 : 0;
    is[IS_RED] = red_level(passed, may_land, (answer)is[IS_ALARM]);
    if (is[IS_BLIND] == YES)
        s.beacon = LAMP_FF8000 + 40;
    else if (is[IS_BUSY] != YES)
        s.beacon = 10 + divided((int64_t)90 * s.landings, 8);
    is[IS_BEACON] = s.beacon;
    is[IS_BOOM] = closes != NO;
    is[IS_HORN] = horn_level(passed, storm, alarm_starts);
    is[IS_PUMP] = !bilge_ok ? 0 : s.pumping == YES ? 80 : back == YES ? -20 : 0;
    if (s.list != UNSURE) s.winch = s.list == STARBOARD ? 30 : 0;
    is[IS_WINCH] = s.winch;
    is[IS_FLAGSTAFF] = s.flagstaff = flagstaff_level(passed, storm);
    is[IS_GAUGE] = gauge_level();
    write_board(a, is[IS_TURNED]);
}

void harbour_step(const harbour_row *r, harbour_answers *a)
{
    const uint32_t now = r->now;
    int32_t *is = a->is;
    sense_flags(r);
    sense_depth(r);
    sense_bilge_and_wind(r);
    sense_rocking(r);
    sense_waves(r);
    tell_sensors(is);
    judge_tide(now);
    judge_wind(now);
    judge_swell(now);
    judge_switches();
    is[IS_TIDE] = s.tide.is;
    is[IS_WIND_FROM] = s.wind_from;
    is[IS_LIST] = s.list;
    is[IS_GALE] = s.gale.is;
    is[IS_SWELL] = s.swell.is;
    is[IS_PUMPING] = s.pumping;
    is[IS_ROUGH] = s.rough;

    const answer onshore = s.wind_from == UNSURE ? UNSURE : sure(s.wind_from == ONSHORE);
    const answer along = s.wind_from == UNSURE ? UNSURE : sure(s.wind_from == ALONG);
    const answer gale = s.gale.is, rough = s.rough, floats = tide_is(FAIR, HIGH);
    const answer storm = either(both(gale, onshore), wind_ok ? sure(wind > 250) : UNSURE);
    const answer may_land = both(both(both(key, floats), negated(gale)), negated(rough));
    const answer busy[4] = {gale, rough, s.swell.is, negated(floats)};
    is[IS_STORM] = storm;
    is[IS_MAY_LAND] = may_land;
    is[IS_BLIND] = sure(!depth_ok || !wind_ok || !vane_ok);
    is[IS_BUSY] = two_of(busy);
    is[IS_FLOODING] =
        (int32_t)lasts(rising_ok ? sure(rising > 30) : UNSURE, now, 5000, &s.flooding_since, &s.flooding_waits);
    is[IS_TURNED] = both(along, s.was_onshore);
    s.was_onshore = (uint8_t)onshore;
    const answer waiting = both(boat, negated(may_land));
    is[IS_WAITING] = waiting;
    is[IS_DONE] = turned_to(&s.waiting_last, waiting, NO);

    const answer dry = lasts(tide_is(AGROUND, AGROUND), now, 5000, &s.aground_since, &s.aground_waits);
    const answer clears = turned_to(&s.ack_last, ack, YES);
    answer alarm = sure(s.alarm);
    const bool may_be_set = dry == UNSURE && (!s.alarm || clears != NO);
    if (dry == YES)
        alarm = YES;
    else if (may_be_set || (clears == UNSURE && s.alarm))
        alarm = UNSURE;
    else if (clears == YES)
        alarm = NO;
    if (alarm != UNSURE) s.alarm = alarm == YES;
    step_landings(may_land);
    step_greeting(now, may_land, storm);
    is[IS_ALARM] = alarm;
    is[IS_LANDINGS] = s.landings;
    is[IS_GREETING] = sure(s.greeting);
    switch_outputs(a, now);
    s.then = now;
    s.begun = true;
}
