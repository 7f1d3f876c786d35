/* SPDX-License-Identifier: MIT */
/* Answers about promises for programs: CSV, JSON Lines, the Test Anything Protocol, and the XML of build servers. In
 * the last two what is not decided is skipped, as it says neither yes nor no. */
#include "promise.h"

#include <inttypes.h>
#include <jansson.h>

void promise_form_begin(FILE *out, tool_form form, uint32_t answers)
{
    if (form == FORM_CSV) fputs("promise,line,row,verdict,after_ms,because\n", out);
    if (form == FORM_TAP) fprintf(out, "TAP version 13\n1..%" PRIu32 "\n", answers);
    if (form == FORM_JUNIT)
        fprintf(
            out,
            "<?xml version=\"1.0\" encoding=\"UTF-8\"?>\n<testsuites>\n  <testsuite name=\"promises\" tests=\"%" PRIu32
            "\">\n",
            answers);
}

void promise_form_end(FILE *out, tool_form form)
{
    if (form == FORM_JUNIT) fputs("  </testsuite>\n</testsuites>\n", out);
}

static void print_csv(FILE *out, const promise_answer *a)
{
    const fg_promise_result *r = &a->result;
    fg_csv_cell(out, a->name);
    fprintf(out, ",%" PRIu32 ",", a->line);
    fg_csv_cell(out, a->written);
    fprintf(out, ",%s,", fg_promise_word(r->verdict));
    if (r->verdict == FG_PROMISE_BREAKS) fprintf(out, "%" PRId64, r->after_ms);
    fputc(',', out);
    fg_csv_cell(out, r->because);
    fputc('\n', out);
}

static bool set_text(json_t *line, const char *key, fg_text text)
{
    return json_object_set_new(line, key, json_stringn_nocheck(text.size ? text.at : "", text.size)) == 0;
}

static bool print_json(FILE *out, const promise_answer *a)
{
    const fg_promise_result *r = &a->result;
    const bool breaks = r->verdict == FG_PROMISE_BREAKS;
    json_t *line = json_object();
    const bool made =
        line && set_text(line, "promise", a->name) && json_object_set_new(line, "line", json_integer(a->line)) == 0 &&
        set_text(line, "row", a->written) && set_text(line, "verdict", fg_text_of(fg_promise_word(r->verdict))) &&
        (!breaks || json_object_set_new(line, "after_ms", json_integer(r->after_ms)) == 0) &&
        (!breaks || json_object_set_new(line, "soonest", json_boolean(r->shortest)) == 0) &&
        (!breaks || set_text(line, "recording", r->recording)) && set_text(line, "because", r->because) &&
        json_dumpf(line, out, JSON_COMPACT | JSON_PRESERVE_ORDER) == 0;
    json_decref(line);
    fputc('\n', out);
    return made;
}

static void print_tap(FILE *out, const promise_answer *a, uint32_t number)
{
    const fg_promise_result *r = &a->result;
    fprintf(out, "%s %" PRIu32 " - ", r->verdict == FG_PROMISE_BREAKS ? "not ok" : "ok", number);
    tool_tap_text(out, a->name);
    fprintf(out, "%sline %" PRIu32 ": ", a->name.size ? ", " : "", a->line);
    tool_tap_text(out, a->written);
    fputs(r->verdict == FG_PROMISE_UNDECIDED ? " # SKIP not decided\n" : "\n", out);
    if (r->verdict == FG_PROMISE_HOLDS) return;
    fputs("# ", out);
    if (r->verdict == FG_PROMISE_BREAKS) fprintf(out, "after %" PRId64 " ms: ", r->after_ms);
    tool_text(out, r->because);
    fputc('\n', out);
}

static void print_junit(FILE *out, const promise_answer *a)
{
    const fg_promise_result *r = &a->result;
    fputs("    <testcase classname=\"", out);
    tool_xml(out, a->name);
    fprintf(out, "\" name=\"line %" PRIu32 ": ", a->line);
    tool_xml(out, a->written);
    if (r->verdict == FG_PROMISE_HOLDS) {
        fputs("\"/>\n", out);
        return;
    }
    const bool breaks = r->verdict == FG_PROMISE_BREAKS;
    fprintf(out, "\">\n      <%s message=\"", breaks ? "failure type=\"breaks\"" : "skipped");
    if (breaks) fprintf(out, "after %" PRId64 " ms: ", r->after_ms);
    tool_xml(out, r->because);
    fputs("\"/>\n    </testcase>\n", out);
}

bool promise_form_answer(FILE *out, tool_form form, const promise_answer *a, uint32_t number)
{
    if (form == FORM_CSV) print_csv(out, a);
    if (form == FORM_TAP) print_tap(out, a, number);
    if (form == FORM_JUNIT) print_junit(out, a);
    return form != FORM_JSONL || print_json(out, a);
}
