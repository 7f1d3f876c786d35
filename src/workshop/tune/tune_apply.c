/* SPDX-License-Identifier: MIT */
/* Which edits are made: those that all rules on a number agree with. */
#include "workshop/tune/tuning.h"

#include <stdlib.h>
#include <string.h>

typedef struct judge {
    const fg_tunings *tunings;
    const fg_program *program;
    void *context;
    void (*tell)(void *context, const fg_edit_note *note);
} judge;

static bool same_place(const fg_edit *a, const fg_edit *b)
{
    return a->span.at == b->span.at && a->span.source == b->span.source;
}

/* The first other edit of the same number that wants another value; `count` if there is none. */
static size_t rival_of(const fg_edit *edits, size_t count, size_t i)
{
    size_t other = 0;
    while (other < count && (!same_place(&edits[other], &edits[i]) || !strcmp(edits[other].text, edits[i].text)))
        other++;
    return other;
}

/* One number for several rules that want it different stays as it is, however many they are. */
static size_t without_disputed(const judge *j, fg_edit *edits, size_t count)
{
    size_t left = 0;
    bool *kept = calloc(count + 1, sizeof *kept);
    if (!kept) return FG_EDITS_NO_MEMORY;
    for (size_t i = 0; i < count; i++) {
        const size_t other = rival_of(edits, count, i);
        size_t first = 0;
        while (!same_place(&edits[first], &edits[i])) first++;
        kept[i] = other == count && first == i;
        if (other < count && first == i) /* told once, at the first of them */
            j->tell(j->context, &(fg_edit_note){FG_EDIT_DISPUTED, &edits[i], edits[other].rule, edits[other].text});
    }
    for (size_t i = 0; i < count; i++)
        if (kept[i]) edits[left++] = edits[i];
    free(kept);
    return left;
}

static const fg_declared *rule_of_op(const fg_program *p, uint16_t op)
{
    uint32_t i = 0;
    while (i < p->declared_count && p->declared[i].slot != op) i++;
    return i < p->declared_count ? &p->declared[i] : NULL;
}

/* Does this rule, if it was tuned, want the number changed as well? Those that want another value were told of before.
 */
static bool agrees(const judge *j, const fg_declared *rule, const fg_written *written, bool *tuned)
{
    bool wants = false;
    *tuned = false;
    for (size_t k = 0; k < j->tunings->count; k++) {
        const fg_tuned *t = &j->tunings->tuned[k];
        if (j->tunings->tunings[k]->rule != rule) continue;
        *tuned = true;
        for (size_t i = 0; i < t->change_count; i++) wants = wants || t->changes[i].written == written;
    }
    return wants;
}

/* Who else stands on a number: a rule that was tuned and wants it as it is keeps it; others are told of. */
static bool is_kept(const judge *j, const fg_edit *edit)
{
    const fg_program *p = j->program;
    for (uint32_t i = 0; i < p->written_count; i++) {
        const fg_written *w = &p->written[i];
        bool tuned;
        if (w->span.source != edit->span.source || w->span.at != edit->span.at || !w->span.size) continue;
        const fg_declared *other = rule_of_op(p, w->op);
        if (!other || other == edit->rule || agrees(j, other, w, &tuned)) continue;
        const fg_edit_note note = {tuned ? FG_EDIT_KEPT : FG_EDIT_SHARED, edit, other, edit->was};
        j->tell(j->context, &note);
        if (tuned) return true;
    }
    return false;
}

size_t fg_edits_agreed(const fg_tunings *tunings, fg_edit *edits, size_t count, void *context,
                       void (*tell)(void *context, const fg_edit_note *note))
{
    if (!tunings->count) return 0; /* no tuning, no edits */
    const judge j = {tunings, tunings->tunings[0]->program, context, tell};
    size_t kept = 0;
    count = without_disputed(&j, edits, count);
    for (size_t i = 0; i < count && count != FG_EDITS_NO_MEMORY; i++)
        if (!is_kept(&j, &edits[i])) edits[kept++] = edits[i];
    return count == FG_EDITS_NO_MEMORY ? count : kept;
}
