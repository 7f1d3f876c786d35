/* SPDX-License-Identifier: MIT */
/* by_hand REC.csv: replay.gate written out by hand in C, for speed.
 *
 * What makes it quick: the file is mapped, every number is read where it lies into whole tenths or units, the rules are
 * plain comparisons of whole numbers, and what depends on answers is worked out only when one of them changed. It
 * trusts the recording: every cell is there, depth, bilge and wind have one decimal, the others none.
 */
#include <fcntl.h>
#include <stdbool.h>
#include <stdint.h>
#include <stdio.h>
#include <string.h>
#include <sys/mman.h>
#include <sys/stat.h>
#include <unistd.h>

/* --- reading -------------------------------------------------------------------------------------------------------
 */

/* Digits up to the next comma or line end, and past it. */
static inline const char *read_count(const char *p, uint32_t *value)
{
    uint32_t v = 0, digit;
    while ((digit = (unsigned char)*p - (uint32_t)'0') < 10) v = v * 10 + digit, p++;
    *value = v;
    return p + 1;
}

static inline const char *read_whole(const char *p, int32_t *value)
{
    bool minus = *p == '-';
    uint32_t v;
    p = read_count(p + minus, &v);
    *value = minus ? -(int32_t)v : (int32_t)v;
    return p;
}

/* 12.3 as 123 tenths. */
static inline const char *read_tenths(const char *p, int32_t *value)
{
    bool minus = *p == '-';
    uint32_t v;
    p = read_count(p + minus, &v);
    v = v * 10 + ((unsigned char)*p - (uint32_t)'0');
    *value = minus ? -(int32_t)v : (int32_t)v;
    return p + 2;
}

/* --- writing -------------------------------------------------------------------------------------------------------
 */

static char out[1 << 16];
static size_t out_used;

static void flush_out(void)
{
    for (size_t done = 0; done < out_used;) {
        ssize_t n = write(STDOUT_FILENO, out + done, out_used - done);
        if (n <= 0) _exit(3);
        done += (size_t)n;
    }
    out_used = 0;
}

static void put(const char *s)
{
    size_t n = strlen(s);
    memcpy(out + out_used, s, n);
    out_used += n;
}

static void put_number(uint32_t v)
{
    char digits[10];
    size_t n = sizeof digits;
    do digits[--n] = (char)('0' + v % 10);
    while (v /= 10);
    memcpy(out + out_used, digits + n, sizeof digits - n);
    out_used += sizeof digits - n;
}

static __attribute__((noinline)) void say(uint32_t t, const char *name, const char *was, const char *is)
{
    if (out_used > sizeof out - 128) flush_out();
    put_number(t);
    put(",");
    put(name);
    put(",");
    put(was);
    put(",");
    put(is);
    put("\n");
}

/* --- rules ---------------------------------------------------------------------------------------------------------
 */

enum { NO, YES, UNSURE };
static const char *const answers[] = {"no", "yes", "unsure"};

enum { AGROUND, SHALLOW, FAIR, HIGH, FLOOD, NO_BAND };
static const char *const tides[] = {"aground", "shallow", "fair", "high", "flood", "unsure"};
/* The present band keeps what lies in it made 3 cm wider on both sides. Unsure keeps nothing. */
static const int32_t keeps_from[] = {INT32_MIN, 170, 570, 1370, 1870, INT32_MAX};
static const int32_t keeps_to[] = {230, 630, 1430, 1930, INT32_MAX, INT32_MIN};

static const char *const winds[] = {"north", "east", "south", "west"};

static int tide_of(int32_t depth) { return (depth >= 200) + (depth >= 600) + (depth >= 1400) + (depth >= 1900); }

static int wind_from_of(int32_t vane)
{
    while (vane < 0) vane += 360;
    while (vane >= 360) vane -= 360;
    return (vane + 45) / 90 & 3;
}

int main(int argc, char **argv)
{
    int file = argc == 2 ? open(argv[1], O_RDONLY) : -1;
    struct stat about;
    if (file < 0 || fstat(file, &about)) {
        fputs("usage: by_hand_mmap REC.csv\n", stderr);
        return 2;
    }
    size_t size = (size_t)about.st_size;
    const char *text = mmap(NULL, size, PROT_READ, MAP_PRIVATE, file, 0);
    if (text == MAP_FAILED) return 2;
    const char *end = text + size;
    const char *p = memchr(text, '\n', size);
    if (!p || end[-1] != '\n') return 2;
    p++;

    put("t_ms,name,was,is\n");
    bool first = true;
    uint32_t began = 0, tide_since = 0, gale_since = 0, landings = 0;
    int tide = NO_BAND, tide_next = NO_BAND, gale = UNSURE, gale_next = UNSURE, wind_from = -1;
    int pumping = NO, rough = NO, may_land = UNSURE, last_sure = UNSURE, alarm = NO, key = NO;
    uint32_t wind_over = 0, wind_count = 0;
    char was_deg[16] = "", is_deg[16] = "", was_count[16] = "", is_count[16] = "";

    while (p < end) {
        uint32_t t;
        int32_t depth, bilge, wind, vane, x, y, z;
        p = read_count(p, &t);
        p = read_tenths(p, &depth);
        p = read_tenths(p, &bilge);
        p = read_tenths(p, &wind);
        p = read_whole(p, &vane);
        p = read_whole(p, &x);
        p = read_whole(p, &y);
        p = read_whole(p, &z);
        int key_now = *p == '1';
        p += 2;

        bool changed = first, pumping_changed = first, key_starts = false;
        if (first) {
            static const char *const sensors[] = {"depth",  "bilge",  "wind",   "vane",
                                                  "rock_x", "rock_y", "rock_z", "rocking"};
            for (size_t i = 0; i < sizeof sensors / sizeof *sensors; i++) say(0, sensors[i], "", "ok");
            began = t;
        }
        t -= began;

        if (first || key_now != key) {
            say(t, "key", first ? "" : answers[key], answers[key_now]);
            key_starts = key_now && !first;
            key = key_now;
            changed = true;
        }

        if (depth >= keeps_from[tide] && depth < keeps_to[tide]) {
            tide_next = NO_BAND;
        } else {
            int now = tide_of(depth);
            if (now != tide_next) tide_next = now, tide_since = t;
            if (t - tide_since >= 2000) {
                say(t, "tide", tides[tide], tides[now]);
                tide = now;
                tide_next = NO_BAND;
                changed = true;
            }
        }
        if (first) say(t, "tide", "", tides[tide]);

        int now = bilge > 120 ? YES : bilge < 50 ? NO : pumping;
        if (first || now != pumping) {
            say(t, "pumping", first ? "" : answers[pumping], answers[now]);
            pumping = now;
            pumping_changed = true;
        }

        /* The median of five is over 14 when three of them are; with fewer, when more than half are. */
        wind_over = (wind_over << 1 | (wind > 140)) & 31;
        if (wind_count < 5) {
            uint32_t over = 0;
            for (uint32_t bits = wind_over; bits; bits >>= 1) over += bits & 1;
            now = over > ++wind_count / 2;
        } else {
            now = 0xfee8e880u >> wind_over & 1; /* bit i is 1 when i has three or more ones */
        }
        if (now == gale) {
            gale_next = UNSURE;
        } else {
            if (now != gale_next) gale_next = now, gale_since = t;
            if (t - gale_since >= 3000) {
                say(t, "gale", answers[gale], answers[now]);
                gale = now;
                gale_next = UNSURE;
                changed = true;
            }
        }
        if (first) say(t, "gale", "", answers[gale]);

        now = wind_from_of(vane);
        if (now != wind_from) {
            say(t, "wind_from", first ? "" : winds[wind_from], winds[now]);
            wind_from = now;
        }

        /* over 1200 once rounded is 1200.5 or more; under 1100 once rounded is less than 1099.5 */
        int32_t square = x * x + y * y + z * z;
        now = square >= 1441201 ? YES : square <= 1208900 ? NO : rough;
        if (first || now != rough) {
            say(t, "rough", first ? "" : answers[rough], answers[now]);
            rough = now;
            changed = true;
        }

        if (changed) {
            now = !key || (tide != FAIR && tide != NO_BAND) || gale == YES || rough ? NO
                  : tide == NO_BAND || gale == UNSURE                               ? UNSURE
                                                                                    : YES;
            int was_landing = may_land, was_alarm = alarm;
            bool count_changed = first;
            if (now == YES && last_sure == NO) landings++, count_changed = true;
            if (now != UNSURE) last_sure = now;
            may_land = now;
            if (first || may_land != was_landing)
                say(t, "may_land", first ? "" : answers[was_landing], answers[may_land]);
            if (count_changed) {
                snprintf(is_count, sizeof is_count, "%u", landings);
                say(t, "landings", was_count, is_count);
                memcpy(was_count, is_count, sizeof was_count);
            }
            alarm = tide == AGROUND ? YES : key_starts ? NO : alarm;
            if (first || alarm != was_alarm) say(t, "alarm", first ? "" : answers[was_alarm], answers[alarm]);
            if (first || (may_land == YES) != (was_landing == YES))
                say(t, "green", first ? "" : was_landing == YES ? "on" : "off", may_land == YES ? "on" : "off");
            if (pumping_changed)
                say(t, "pump", first ? "" : pumping ? "stop" : "forward 80%", pumping ? "forward 80%" : "stop");
            if (first || alarm != was_alarm)
                say(t, "horn", first ? "" : was_alarm ? "880Hz" : "quiet", alarm ? "880Hz" : "quiet");
            if (count_changed) {
                uint32_t steps = landings < 8 ? landings : 8;
                snprintf(is_deg, sizeof is_deg, "%u deg", 15 + (150 * steps * 2 + 8) / 16);
                if (strcmp(was_deg, is_deg)) say(t, "flagstaff", was_deg, is_deg);
                memcpy(was_deg, is_deg, sizeof was_deg);
            }
        } else if (pumping_changed) {
            say(t, "pump", pumping ? "stop" : "forward 80%", pumping ? "forward 80%" : "stop");
        }
        first = false;
    }
    flush_out();
    return 0;
}
