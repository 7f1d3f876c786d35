/* SPDX-License-Identifier: MIT */
/* Runs every case of the language: a gate and readings with the exact answers, or a gate with the exact places of its
 * mistakes. Each run with readings is made twice, the second time across the wrap of the 32-bit clock. */
#include "../support/case_file.h"

#include <ficklegate/workshop.h>

#include <check.h>
#include <inttypes.h>
#include <stdlib.h>
#include <string.h>
#include <unistd.h>

static case_list cases;

static bool keep_change(void *context, const fg_change *change)
{
    FILE *out = context;
    const fg_text cells[] = {change->was, change->is};
    fprintf(out, "%" PRId64 ",%.*s", change->t_ms, (int)change->declared->name.size, change->declared->name.at);
    for (int i = 0; i < 2; i++) {
        bool quoted = false;
        for (size_t j = 0; j < cells[i].size; j++) quoted = quoted || strchr(",\"\n", cells[i].at[j]);
        fputs(quoted ? ",\"" : ",", out);
        for (size_t j = 0; j < cells[i].size; j++) {
            if (cells[i].at[j] == '"') fputc('"', out);
            fputc(cells[i].at[j], out);
        }
        if (quoted) fputc('"', out);
    }
    fputc('\n', out);
    ck_assert_msg(change->because.size > 0, "no reason for %.*s", (int)change->declared->name.size,
                  change->declared->name.at);
    return true;
}

/* The readings with `shift` milliseconds added to each time, in a file of its own. */
static void write_shifted(const char *path, const char *readings, int64_t shift)
{
    FILE *out = fopen(path, "wb");
    ck_assert_ptr_nonnull(out);
    for (const char *at = readings; *at;) {
        const char *end = strchr(at, '\n');
        size_t size = end ? (size_t)(end - at) + 1 : strlen(at);
        char *behind;
        long long t = strtoll(at, &behind, 10);
        if (behind != at && *behind == ',') {
            fprintf(out, "%lld", t + (long long)shift);
            fwrite(behind, 1, size - (size_t)(behind - at), out);
        } else {
            fwrite(at, 1, size, out);
        }
        at += size;
    }
    fclose(out);
}

static int64_t half_length(const char *readings)
{
    const char *last = readings + strlen(readings);
    while (last > readings && (last == readings + strlen(readings) || last[-1] != '\n')) last--;
    return strtoll(last, NULL, 10) / 2;
}

static void replay_as_expected(const char *path, const fg_program *program, const char *readings, const char *expected,
                               int64_t shift)
{
    char file[] = "/tmp/fickle-case-XXXXXX";
    char *got = NULL;
    size_t size = 0;
    int handle = mkstemp(file);
    ck_assert_int_ge(handle, 0);
    close(handle);
    write_shifted(file, readings, shift);
    FILE *out = open_memstream(&got, &size);
    fputs("t_ms,name,was,is\n", out);
    const fg_replay_observer observer = {.context = out, .change = keep_change};
    fg_replay_report report;
    fg_mistake mistake;
    fg_status status = fg_replay(program, &(fg_readings){.recording = file}, &observer, &report, &mistake);
    fclose(out);
    unlink(file);
    ck_assert_msg(status == FG_OK, "%s: line %" PRIu64 ": %s", path, mistake.line, mistake.text);
    ck_assert_msg(strcmp(got, expected) == 0, "%s, clock + %" PRId64 ": got\n%s\nexpected\n%s", path, shift, got,
                  expected);
    free(got);
}

/* Each line of the section: the line of the gate, and something the message has to hold. */
static void messages_as_expected(const char *path, const fg_gate_file *gate, const char *expected)
{
    uint32_t i = 0;
    for (const char *at = expected; *at; at = strchr(at, '\n') + 1) {
        char part[160];
        unsigned line;
        ck_assert_msg(strchr(at, '\n') && sscanf(at, "%u %159[^\n]", &line, part) == 2, "%s: cannot read '%s'", path,
                      at);
        ck_assert_msg(i < gate->program.finding_count, "%s: only %" PRIu32 " findings, no '%s'", path, i, part);
        const fg_finding *finding = &gate->program.findings[i++];
        char said[600];
        snprintf(said, sizeof said, "%.*s | %.*s", (int)finding->what.size, finding->what.at,
                 (int)finding->instead.size, finding->instead.at);
        const uint32_t found = fg_text_place(gate->text, finding->span.at).line;
        ck_assert_msg(found == line && strstr(said, part), "%s: expected line %u '%s', got line %" PRIu32 " '%s'", path,
                      line, part, found, said);
    }
    ck_assert_msg(i == gate->program.finding_count, "%s: %" PRIu32 " findings, expected %" PRIu32, path,
                  gate->program.finding_count, i);
}

static void end_line(FILE *file) { fputs(" # as it was; { \" }\r\n\t ", file); }

/* Is this the blank or bracket before a comment? */
static bool before_comment(const char *text, const char *at) { return at == text || strchr(" \t\n;{}", at[-1]); }

/* The same gate printed with one row a line, other line ends, more blanks, and a comment of our own on every line. */
static char *printed(const char *text)
{
    char *out = NULL;
    size_t size = 0;
    bool quoted = false;
    FILE *file = open_memstream(&out, &size);
    for (const char *at = text; *at; at++) {
        if (*at == '#' && !quoted && before_comment(text, at)) at += strcspn(at, "\n");
        if (*at == '"') quoted = !quoted;
        quoted = quoted && *at != '\n';
        if (!quoted && *at == '}') end_line(file);
        if (*at != '\n' && *at != '\r' && (quoted || *at != ';')) fputc(*at, file);
        if (!quoted && strchr("\n;{}", *at)) end_line(file);
        if (!*at) break;
    }
    fputs("\n\n", file);
    fclose(file);
    return out;
}

/* Its tables too are the same, as far as they hold no texts. */
static void same_tables(const char *path, const fg_gate *a, const fg_gate *b)
{
    const fg_gate_sizes *n = &a->size;
    ck_assert_msg(memcmp(n, &b->size, sizeof *n) == 0 && a->every == b->every, "%s printed: other counts", path);
    for (uint32_t i = 0; i < (uint32_t)n->ops + n->watched; i++)
        ck_assert_msg(memcmp(&a->ops[i], &b->ops[i], sizeof *a->ops) == 0, "%s printed: line %" PRIu32, path, i);
    for (uint16_t i = 0; i < n->bands; i++)
        for (uint16_t k = 0; k < a->bands[i].count; k++)
            ck_assert_msg(memcmp(&a->bands[i].bands[k].kept, &b->bands[i].bands[k].kept, sizeof(fg_range)) == 0,
                          "%s printed: band %d of bands %d", path, k, i);
}

static void printed_is_the_same(const char *path, const char *text, const fg_gate *first, const char *readings,
                                const char *answers)
{
    fg_gate_file gate;
    fg_mistake mistake = {0};
    char gate_path[] = "/tmp/fickle-gate-XXXXXX";
    char *other = printed(text);
    int handle = mkstemp(gate_path);
    ck_assert_int_ge(handle, 0);
    close(handle);
    write_whole(gate_path, other, strlen(other));
    fg_status status = fg_gate_file_open(&gate, gate_path, (fg_settings){0}, &mistake);
    unlink(gate_path);
    ck_assert_msg(status == FG_OK, "%s printed: %.*s", path,
                  gate.program.finding_count ? (int)gate.program.findings[0].what.size : 0,
                  gate.program.finding_count ? gate.program.findings[0].what.at : "");
    same_tables(path, first, &gate.program.gate);
    replay_as_expected(path, &gate.program, readings, answers, 0);
    fg_gate_file_close(&gate);
    free(other);
}

START_TEST(test_case)
{
    const char *path = cases.paths[_i];
    case_file file;
    char gate_path[] = "/tmp/fickle-gate-XXXXXX";
    ck_assert_msg(case_file_read(path, &file), "%s cannot be read", path);
    const char *text = case_file_text(&file, "gate"), *readings = case_file_text(&file, "readings");
    const char *answers = case_file_text(&file, "answers"), *messages = case_file_text(&file, "messages");
    ck_assert_msg(text && (messages || (readings && answers)), "%s lacks a section", path);
    int handle = mkstemp(gate_path);
    ck_assert_int_ge(handle, 0);
    close(handle);
    write_whole(gate_path, text, strlen(text));

    fg_gate_file gate;
    fg_mistake mistake = {0};
    fg_status status = fg_gate_file_open(&gate, gate_path, (fg_settings){0}, &mistake);
    unlink(gate_path);
    if (messages) {
        ck_assert_msg(status == FG_ERROR_GATE || status == FG_OK, "%s: status %d", path, (int)status);
        messages_as_expected(path, &gate, messages);
    } else {
        ck_assert_msg(status == FG_OK, "%s: %.*s", path,
                      gate.program.finding_count ? (int)gate.program.findings[0].what.size : 0,
                      gate.program.finding_count ? gate.program.findings[0].what.at : "");
    }
    if (readings) {
        replay_as_expected(path, &gate.program, readings, answers, 0);
        replay_as_expected(path, &gate.program, readings, answers, ((int64_t)1 << 32) - half_length(readings));
        printed_is_the_same(path, text, &gate.program.gate, readings, answers);
    }
    fg_gate_file_close(&gate);
    case_file_free(&file);
}
END_TEST

int main(void)
{
    cases = case_list_of(CASES);
    Suite *suite = suite_create("language cases");
    TCase *all = tcase_create("cases");
    tcase_add_loop_test(all, test_case, 0, (int)cases.count);
    suite_add_tcase(suite, all);
    SRunner *runner = srunner_create(suite);
    srunner_run_all(runner, CK_NORMAL);
    int failed = srunner_ntests_failed(runner);
    srunner_free(runner);
    bool none = !cases.count;
    if (none) fputs("there are no cases in " CASES "\n", stderr);
    case_list_free(&cases);
    return failed || none ? 1 : 0;
}
