/* SPDX-License-Identifier: MIT */
/* Any bytes as what a board sends, at any moments, with sensors held by hand in between. What was kept of it replays to
 * the same changes. The first byte says how; 1 and 2 are moments and hands, all else comes over the line. */
#include "mix.h"

#include <ficklegate/workshop.h>

#include <stdio.h>
#include <stdlib.h>
#include <string.h>
#include <unistd.h>

int LLVMFuzzerTestOneInput(const uint8_t *data, size_t size);

static const char gates[2][600] = {
    "every 50ms\nsensor d { unit cm; step 0.1; raw 0..1023 reads 0..250; trust 0..240; median 3; bridge 200ms; stale "
    "after 1s }\n"
    "flag k { settle 100ms }\nbands b from d { low | 20 | mid | 60 | high; margin 2; settle 100ms }\n"
    "latch l { set when b is high; clear when k }\ncount n { add when l; limit 0..9 }\nlamp red { on when l; on 20% if "
    "unsure }\n",
    "sensor d { unit cm; step 0.1; raw 0..1023 reads 0..250; stale after 300ms }\nflag k\n"
    "bands b from d { low 0..20; high over 30; settle 100ms }\nlatch l { set when b is high for 200ms; clear when k }\n"
    "count n { add when l }\nlamp red { follow d 0..100 when l }\n"};

typedef struct heard {
    uint64_t hash, count;
    fg_keeper *keeper;
    const char *kept;
    bool failed;
} heard;

static bool on_change(void *context, const fg_change *change)
{
    heard *h = context;
    char time[24];
    if (!change->because.size) abort();
    fuzz_mix(&h->hash, (fg_text){time, (size_t)snprintf(time, sizeof time, "%lld", (long long)change->t_ms)});
    fuzz_mix(&h->hash, change->declared->name);
    fuzz_mix(&h->hash, change->is);
    h->count++;
    return true;
}

static bool on_columns(void *context, const fg_text *columns, size_t count, fg_mistake *mistake)
{
    heard *h = context;
    h->keeper = fg_keep_start(h->kept, columns, count, mistake);
    return h->keeper != NULL;
}

static bool on_row(void *context, int64_t t_ms, const fg_text *cells, size_t count)
{
    heard *h = context;
    (void)count;
    if (t_ms > 60000) return false; /* long enough to play twice */
    fg_keep_row(h->keeper, cells);
    return true;
}

static void on_tell(void *context, const char *text)
{
    (void)context;
    if (!*text || fg_utf8_wrong((fg_text){text, strlen(text)}) != strlen(text)) abort();
}

static bool send_all(fg_live *live, const fg_program *program, const uint8_t *data, size_t size)
{
    static const char *const values[] = {"", "5", "25.05", "99", "faulty", "1", "-3", "yes"};
    int64_t now = 1000;
    for (size_t i = 0; i < size; i++) {
        size_t bytes = 0;
        while (i + bytes < size && data[i + bytes] > 2) bytes++;
        if (bytes && !fg_live_bytes(live, (const char *)data + i, bytes, now)) return false;
        i += bytes;
        if (i + 1 >= size) break;
        const uint8_t what = data[i], how = data[++i];
        if (what == 1 && now < 30000) now += how * 7;
        if (what == 1 && !fg_live_until(live, now)) return false;
        if (what == 2) (void)!fg_live_hold(live, &program->declared[how & 1], fg_text_of(values[how >> 1 & 7]));
        if (what == 0 && !fg_live_message(live, fg_text_of(how & 1 ? "d" : "x"), fg_text_of(values[how >> 1 & 7]), now))
            return false;
    }
    return fg_live_bytes_end(live, size & 1, now);
}

int LLVMFuzzerTestOneInput(const uint8_t *data, size_t size)
{
    static fg_gate_file files[2];
    static char kept[64];
    fg_mistake mistake;
    fg_replay_report report;
    if (!size) return 0;
    const int how = data[0];
    fg_gate_file *file = &files[how & 1];
    if (!file->program.declared_count &&
        fg_gate_file_of_text(file, "fuzz.gate", (fg_text){gates[how & 1], strlen(gates[how & 1])}, (fg_settings){0},
                             &mistake) != FG_OK)
        abort();
    static const char *const endings[] = {"csv", "jsonl"};
    snprintf(kept, sizeof kept, "/dev/shm/fickle-live-%d.%s", (int)getpid(), endings[how >> 1 & 1]);
    (void)unlink(kept);
    heard live_heard = {.kept = kept}, replay_heard = {0};
    const fg_live_options options = {.reading = {.names = how & 4   ? "d,k"
                                                          : how & 8 ? "t_ms,d"
                                                                    : NULL},
                                     .idle_ms = how & 16 ? 100 : 0,
                                     .leap_ms = 5000,
                                     .tell = on_tell};
    const fg_replay_observer observer = {
        .context = &live_heard, .change = on_change, .columns = on_columns, .row = on_row};
    fg_live *live = fg_live_start(&file->program, &options, &observer, &report);
    if (!live) abort();
    const bool whole = send_all(live, &file->program, data + 1, size - 1);
    fg_live_end(live);
    const uint64_t rows = fg_keep_rows(live_heard.keeper);
    if (fg_keep_end(live_heard.keeper, &mistake) != FG_OK) abort();
    const fg_replay_observer again = {.context = &replay_heard, .change = on_change};
    const fg_readings readings = {.recording = kept};
    if (whole && rows) {
        if (fg_replay(&file->program, &readings, &again, &report, &mistake) != FG_OK) abort();
        if (replay_heard.count != live_heard.count || replay_heard.hash != live_heard.hash) abort();
    }
    (void)unlink(kept);
    return 0;
}
