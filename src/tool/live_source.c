/* SPDX-License-Identifier: MIT */
/* Where readings come from: standard input, a serial device, a recording or scene at its own pace. */
#include "live.h"

#include <errno.h>
#include <fcntl.h>
#include <stdlib.h>
#include <string.h>
#include <sys/stat.h>
#include <unistd.h>

/* ---- what a name stands for ---- */

static bool open_pipe(live_session *s, const char *path)
{
    s->kind = LIVE_STREAM;
    s->stream = open(path, O_RDONLY | O_CLOEXEC);
    if (s->stream < 0) tool_say("%s: error: cannot be opened: %s\n", path, strerror(errno));
    return s->stream >= 0;
}

static bool open_serial(live_session *s, const char *path)
{
    fg_mistake mistake;
    s->kind = LIVE_SERIAL;
    s->serial = fg_serial_open(path, s->options->baud, &mistake);
    if (!s->serial) tool_print_mistake(&mistake);
    return s->serial != NULL;
}

fg_broker *live_broker_open(const live_options *o, const char *address, bool listens, const char *will)
{
    fg_broker_options options = {.address = address, .ca_file = o->ca, .listens = listens, .will = will};
    for (size_t i = 0; listens && i < o->topic_count; i++)
        options.topics[options.topic_count++] = strchr(o->topics[i], '=') + 1;
    return tool_broker_open(&options, o->login);
}

static bool open_broker(live_session *s, const char *address)
{
    s->kind = LIVE_BROKER;
    s->broker = live_broker_open(s->options, address, true, NULL);
    return s->broker != NULL;
}

bool live_source_open(live_session *s)
{
    const char *source = s->options->common.recording;
    struct stat about;
    s->stream = -1;
    s->name = s->options->common.scene ? s->options->common.scene : tool_path(source);
    s->kind = LIVE_PLAYED;
    if (s->options->common.scene) return true;
    if (!strcmp(source, "hand")) {
        s->kind = LIVE_HAND;
        return true;
    }
    if (!strcmp(source, "-")) {
        s->kind = LIVE_STREAM;
        s->stream = STDIN_FILENO;
        return true;
    }
    if (fg_broker_is(source)) return open_broker(s, source);
    const bool there = stat(source, &about) == 0;
    if (there && S_ISREG(about.st_mode)) return true;
    if (there && S_ISFIFO(about.st_mode)) return open_pipe(s, source);
    if (there || !strncmp(source, "/dev/", 5)) return open_serial(s, source);
    tool_say("%s: error: %s\n", source,
             errno == ENOENT
                 ? "there is no such file or device; a board is /dev/ttyACM0 or /dev/ttyUSB0 more often than not"
                 : strerror(errno));
    return false;
}

void live_source_close(live_session *s)
{
    fg_serial_close(s->serial);
    fg_broker_close(s->broker);
    if (s->stream > STDIN_FILENO) (void)close(s->stream);
    free(s->columns);
}

/* ---- what comes ---- */

static bool read_stream(live_session *s)
{
    static char block[1 << 16];
    const ssize_t got = read(s->stream, block, sizeof block);
    if (got > 0) return fg_live_bytes(s->live, block, (size_t)got, tool_now());
    if (got < 0 && (errno == EINTR || errno == EAGAIN)) return true;
    s->over = true;
    return fg_live_bytes_end(s->live, true, tool_now());
}

static bool read_serial(live_session *s)
{
    char block[1 << 12];
    const long got = fg_serial_read(s->serial, block, sizeof block);
    if (got > 0) return fg_live_bytes(s->live, block, (size_t)got, tool_now());
    if (got == 0) return true;
    live_tell(s, "the board is gone; it goes on when the board is plugged in again");
    return fg_live_bytes_end(s->live, false, tool_now());
}

/* The name that --topic gives to this topic; else its last level. */
static fg_text name_of(const live_session *s, fg_text topic)
{
    for (size_t i = 0; i < s->options->topic_count; i++) {
        const char *given = s->options->topics[i], *equals = strchr(given, '=');
        if (fg_text_is(topic, equals + 1)) return (fg_text){given, (size_t)(equals - given)};
    }
    size_t from = topic.size;
    while (from && topic.at[from - 1] != '/') from--;
    return (fg_text){topic.at + from, topic.size - from};
}

static bool on_message(void *context, fg_text topic, fg_text payload)
{
    const live_session *s = context;
    return fg_live_message(s->live, name_of(s, topic), payload, tool_now());
}

bool live_source_read(live_session *s)
{
    if (s->kind == LIVE_SERIAL) return read_serial(s);
    return s->kind != LIVE_STREAM || read_stream(s);
}

int live_source_handle(const live_session *s)
{
    if (s->kind == LIVE_SERIAL) return fg_serial_handle(s->serial);
    if (s->kind == LIVE_BROKER) return fg_broker_handle(s->broker);
    return s->kind == LIVE_STREAM && !s->over ? s->stream : -1;
}

/* A board that was pulled out is looked for now and then; a broker wants to be heard. */
bool live_source_turn(live_session *s, int64_t now)
{
    enum { OFTEN_MS = 250 };
    const fg_broker_sink sink = {.context = s, .message = on_message, .tell = live_tell};
    if (s->broker) return fg_broker_turn(s->broker, &sink);
    if (!s->serial || fg_serial_handle(s->serial) >= 0 || now - s->looked_ms < OFTEN_MS) return true;
    s->looked_ms = now;
    if (fg_serial_look(s->serial)) live_tell(s, "the board is back");
    return true;
}

/* ---- what is played ---- */

static bool on_heading(void *context, const fg_text *columns, size_t count, fg_mistake *mistake)
{
    live_session *s = context;
    size_t size = 0;
    for (size_t i = 0; i < count; i++) size += columns[i].size;
    s->columns = malloc(count * sizeof *s->columns + size + 1);
    if (!s->columns) {
        mistake->status = FG_ERROR_MEMORY;
        snprintf(mistake->text, sizeof mistake->text, "there is not enough memory for its columns");
        return false;
    }
    s->column_count = count;
    char *texts = (char *)(s->columns + count);
    for (size_t i = 0; i < count; i++) {
        memcpy(texts, columns[i].at, columns[i].size);
        s->columns[i] = (fg_text){texts, columns[i].size};
        texts += columns[i].size;
    }
    return true;
}

/* Waits until the row is due, while the steps before it are made at their time. */
static bool on_row(void *context, int64_t t_ms, const fg_text *cells, size_t count, uint64_t line, fg_mistake *mistake)
{
    enum { SOON_MS = 10 };
    live_session *s = context;
    (void)line;
    (void)mistake;
    if (fg_live_time(s->live) < 0) {
        s->played_ms = t_ms;
        s->began_ms = live_clock(s);
    }
    const double speed = s->options->speed;
    const int64_t at = t_ms - s->played_ms, due = s->began_ms + (int64_t)((double)at / speed);
    for (int64_t now; (now = live_clock(s)) < due;) {
        const int64_t run = (int64_t)((double)(now - s->began_ms) * speed);
        if (!fg_live_until_run(s->live, run < at ? run : at)) return false;
        if (!live_turn(s, due < now + SOON_MS ? due : now + SOON_MS)) return false;
    }
    return !tool_stopped && !s->quits && fg_live_row(s->live, s->columns, cells, count, t_ms);
}

bool live_play(live_session *s)
{
    fg_readings readings;
    fg_mistake mistake = {0};
    if (!tool_readings(&s->options->common, s->file, &readings)) return false;
    const fg_recording_sink sink = {.context = s, .heading = on_heading, .row = on_row};
    const fg_status status = readings.scene ? fg_scene_read(&s->file->program, readings.scene, &sink, &mistake)
                                            : fg_recording_read(readings.recording, &readings.options, &sink, &mistake);
    s->over = true;
    if (status == FG_OK || !*mistake.text) return true;
    tool_print_mistake(&mistake);
    return false;
}
