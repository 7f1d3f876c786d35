/* SPDX-License-Identifier: MIT */
/* Findings: collected as they come, each with its place and its texts. */
#include "language/text/findings.h"

#include "core/mem.h"

#include <stdarg.h>

/* The rows of FG_FINDINGS, in their order. */
fg_severity fg_finding_severity(fg_finding_code code)
{
    static const uint8_t severities[] = {
#define FG_SEVERITY(code, severity, word) FG_SEVERITY_##severity,
        FG_FINDINGS(FG_SEVERITY)
#undef FG_SEVERITY
    };
    FG_STATIC_ASSERT(sizeof severities == FG_FINDING_CODES, "a severity for each code");
    return (fg_severity)severities[code];
}

/* The word stands behind every message, and `fickle check --explain` takes it. */
const char *fg_finding_word(fg_finding_code code)
{
    static const char *const words[] = {
#define FG_WORD(code, severity, word) word,
        FG_FINDINGS(FG_WORD)
#undef FG_WORD
    };
    return words[code];
}

/* What was set or asked on the command line has a text of its own, so a message about it can show it as written. */
static fg_text source_text(const fg_compiler *c, uint16_t source)
{
    if (source >= FG_SOURCE_ASKED) return c->input->asked[source - FG_SOURCE_ASKED];
    if (source >= FG_SOURCE_SETTING) return c->input->settings[source - FG_SOURCE_SETTING].value;
    return c->sources[source].text;
}

/* At most 60 bytes: a message quotes, it does not repeat a file. A span that lies outside, as after a mistake at the
 * end, gives an empty text. */
fg_text fg_span_text(const fg_compiler *c, fg_span span)
{
    fg_text text = source_text(c, span.source);
    if (span.at > text.size) return (fg_text){0};
    size_t size = span.size;
    if (size > text.size - span.at) size = text.size - span.at;
    if (size > 60) { /* cut between characters */
        size = 60;
        while (size && ((unsigned char)text.at[span.at + size] & 0xc0) == 0x80) size--;
    }
    return (fg_text){text.at + span.at, size};
}

/* Fills the pattern in; with `out` NULL only measures. */
static size_t fill(char *out, const char *pattern, va_list *texts)
{
    size_t size = 0;
    for (; *pattern; pattern++) {
        if (pattern[0] == '{' && pattern[1] == '}') {
            fg_text text = va_arg(*texts, fg_text);
            if (out && text.size) memcpy(out + size, text.at, text.size);
            size += text.size;
            pattern++;
        } else {
            if (out) out[size] = *pattern;
            size++;
        }
    }
    return size;
}

/* Counts everything, keeps the first FG_FINDINGS_MOST, and says how many more there were. `quiet` is set while a row
 * is skipped that is wrong already. The text is measured first and written after, so it takes what it needs and no
 * more. */
void fg_report(fg_compiler *c, fg_finding_code code, fg_span span, const char *what, const char *instead, ...)
{
    const fg_severity severity = fg_finding_severity(code);
    if (c->quiet) return;
    c->error_count += severity == FG_SEVERITY_ERROR;
    c->warning_count += severity == FG_SEVERITY_WARNING;
    /* Counted, but not kept: nobody reads the hundred and first. */
    if (c->reported_count >= FG_FINDINGS_MOST) {
        c->unlisted++;
        return;
    }
    /* The same texts twice: once to learn their length, once to write them. */
    va_list measured, filled;
    va_start(measured, instead);
    va_copy(filled, measured);
    size_t what_size = fill(NULL, what, &measured);
    size_t instead_size = fill(NULL, instead, &measured);
    fg_reported *said = FG_TAKE(fg_reported, &c->arena, 1);
    char *text = FG_TAKE(char, &c->arena, what_size + instead_size + 1);
    if (said && text) {
        (void)fill(text, what, &filled);
        (void)fill(text + what_size, instead, &filled);
        said->finding = (fg_finding){
            .code = code, .span = span, .what = {text, what_size}, .instead = {text + what_size, instead_size}};
        if (c->reported_last)
            c->reported_last->next = said;
        else
            c->reported = said;
        c->reported_last = said;
        c->reported_count++;
    }
    va_end(measured);
    va_end(filled);
}

/* Nothing was reported while it is quiet, and nothing was kept once the list is full. */
void fg_report_fix(fg_compiler *c, fg_span span, fg_text text)
{
    if (c->quiet || c->unlisted || !c->reported_last) return;
    c->reported_last->finding.fix_span = span;
    c->reported_last->finding.fix = text.at ? text : T("");
}

/* As a person writes it: without zeros behind the point. */
fg_text fg_text_of_value(fg_compiler *c, int64_t value, uint8_t decimals)
{
    enum { MOST = 32 };
    char backwards[MOST];
    size_t count = 0, size = 0;
    uint64_t left = value < 0 ? 0 - (uint64_t)value : (uint64_t)value;
    char *text = FG_TAKE(char, &c->arena, MOST);
    if (!text) return (fg_text){0};
    while (decimals && left % 10 == 0) { /* as one writes it: 20, not 20.0 */
        left /= 10;
        decimals--;
    }
    do {
        if (decimals && count == decimals) backwards[count++] = '.';
        backwards[count++] = (char)('0' + left % 10);
        left /= 10;
    } while (left || count < decimals + (decimals ? 2u : 1u));
    if (value < 0) text[size++] = '-';
    while (count) text[size++] = backwards[--count];
    return (fg_text){text, size};
}

/* A new text of both, with `between` in the middle. */
fg_text fg_text_join(fg_compiler *c, fg_text a, const char *between, fg_text b)
{
    size_t middle = fg_text_of(between).size;
    char *text = FG_TAKE(char, &c->arena, a.size + middle + b.size + 1);
    if (!text) return (fg_text){0};
    if (a.size) memcpy(text, a.at, a.size);
    memcpy(text + a.size, between, middle);
    if (b.size) memcpy(text + a.size + middle, b.at, b.size);
    return (fg_text){text, a.size + middle + b.size};
}

/* A blank stands in front of a unit, but not in front of %. */
fg_text fg_text_of_value_unit(fg_compiler *c, int64_t value, uint8_t decimals, fg_text unit)
{
    fg_text number = fg_text_of_value(c, value, decimals);
    if (!unit.size) return number;
    return fg_text_join(c, number, fg_text_is(unit, "%") ? "" : " ", unit);
}

/* By file, then by place: the order in which a person reads. */
static bool stands_before(const fg_finding *a, const fg_finding *b)
{
    if (a->span.source != b->span.source) return a->span.source < b->span.source;
    return a->span.at < b->span.at;
}

/* The findings in the order of the text; those of one place in the order they were found. */
void fg_report_finish(fg_compiler *c)
{
    fg_finding *list = FG_TAKE(fg_finding, &c->arena, c->reported_count);
    uint32_t count = 0;
    for (const fg_reported *said = c->reported; said && list; said = said->next) {
        uint32_t at = count++;
        for (; at && stands_before(&said->finding, &list[at - 1]); at--) list[at] = list[at - 1];
        list[at] = said->finding;
    }
    c->program->findings = list;
    c->program->finding_count = count;
    c->program->error_count = c->error_count;
    c->program->warning_count = c->warning_count;
    c->program->unlisted_count = c->unlisted;
}

/* Columns count characters, not bytes. A byte order mark is no character, and a carriage return no part of the line. */
fg_place fg_text_place(fg_text text, uint32_t at)
{
    if (!text.at) text = T("");
    fg_place place = {1, 1, {0}};
    size_t begin = 0, end = at > text.size ? text.size : at;
    for (size_t i = 0; i < end; i++) {
        if (text.at[i] != '\n') continue;
        place.line++;
        begin = i + 1;
    }
    if (begin == 0 && text.size >= 3 && fg_bytes_same(text.at, "\xEF\xBB\xBF", 3)) begin = 3;
    for (size_t i = begin; i < end; i++) place.column += ((unsigned char)text.at[i] & 0xc0) != 0x80;
    size_t line_end = fg_text_byte(text, begin, '\n');
    if (line_end > begin && text.at[line_end - 1] == '\r') line_end--;
    place.text = (fg_text){text.at + begin, line_end - begin};
    return place;
}
