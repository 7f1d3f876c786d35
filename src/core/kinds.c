/* SPDX-License-Identifier: MIT */
/* The rows of kinds.h as tables. */
#include <ficklegate/kinds.h>

#include "mem.h"

/* Each table below is made of the rows, in their order, so a number indexes it without a search. */
uint8_t fg_op_traits(fg_op_kind kind)
{
    static const uint8_t traits[] = {
#define FG_OP_TRAITS(name, word, traits) traits,
        FG_OPS(FG_OP_TRAITS)
#undef FG_OP_TRAITS
    };
    return traits[kind];
}

uint16_t fg_kind_traits(fg_kind kind)
{
    static const uint16_t traits[] = {
#define FG_KIND_TRAITS(name, word, traits, op) traits,
        FG_KINDS(FG_KIND_TRAITS)
#undef FG_KIND_TRAITS
    };
    return traits[kind];
}

const char *fg_kind_word(fg_kind kind)
{
    static const char *const words[] = {
#define FG_KIND_WORD(name, word, traits, op) word,
        FG_KINDS(FG_KIND_WORD)
#undef FG_KIND_WORD
    };
    return words[kind];
}

fg_op_kind fg_kind_op(fg_kind kind)
{
    static const uint8_t ops[] = {
#define FG_KIND_OP(name, word, traits, op) op,
        FG_KINDS(FG_KIND_OP)
#undef FG_KIND_OP
    };
    return (fg_op_kind)ops[kind];
}

/* Outputs share one op, so it names none of them. There are few kinds, and nobody asks this in a step. */
fg_kind fg_op_declared_kind(fg_op_kind op)
{
    int kind = 0;
    while (kind < FG_KINDS_IN_ALL && (fg_kind_op((fg_kind)kind) != op || fg_kind_is((fg_kind)kind, FG_KIND_IS_OUTPUT)))
        kind++;
    return (fg_kind)kind;
}

const char *fg_form_word(fg_form form)
{
    static const char *const words[] = {
#define FG_FORM_WORD(name, word, outputs, traits) word,
        FG_FORMS(FG_FORM_WORD)
#undef FG_FORM_WORD
    };
    return words[form];
}

uint8_t fg_form_traits(fg_form form)
{
    static const uint8_t traits[] = {
#define FG_FORM_TRAITS(name, word, outputs, traits) traits,
        FG_FORMS(FG_FORM_TRAITS)
#undef FG_FORM_TRAITS
    };
    return traits[form];
}

/* A bit for each output. */
bool fg_form_fits(fg_form form, fg_output_kind output)
{
    static const uint8_t outputs[] = {
#define FG_FORM_OUTPUTS(name, word, outputs, traits) outputs,
        FG_FORMS(FG_FORM_OUTPUTS)
#undef FG_FORM_OUTPUTS
    };
    return outputs[form] >> output & 1;
}

const char *fg_colour_name(size_t i, uint32_t *rgb)
{
    static const struct {
        uint32_t rgb;
        const char *name;
    } colours[] = {
#define FG_COLOUR_ROW(rgb, name) {rgb, name},
        FG_COLOURS(FG_COLOUR_ROW)
#undef FG_COLOUR_ROW
    };
    if (i >= sizeof colours / sizeof *colours) return NULL;
    *rgb = colours[i].rgb;
    return colours[i].name;
}

/* Number 0 is FG_COMPARE_NONE, which is no row. */
const fg_comparison_form *fg_comparison_form_of(fg_comparison_kind kind)
{
    static const fg_comparison_form forms[] = {{"", NULL, 0},
#define FG_COMPARISON_FORM(name, word, second, traits) {word, second, traits},
                                               FG_COMPARISONS(FG_COMPARISON_FORM)
#undef FG_COMPARISON_FORM
    };
    return &forms[kind];
}

FG_STATIC_ASSERT(FG_OUTPUT_KINDS <= 8, "fg_form_fits keeps the outputs of a form in 8 bits");
FG_STATIC_ASSERT((int)FG_KIND_LAMP + (int)FG_OUTPUT_KINDS == (int)FG_KINDS_IN_ALL, "the outputs stand last");
/* What an output can be at comes before what stands in rows only. */
#define FG_FORM_ORDER(name, word, outputs, traits)                                                                     \
    FG_STATIC_ASSERT((((traits)&FG_FORM_IN_ROWS) == 0) == (FG_FORM_##name < FG_FORM_HOLD), "forms in rows stand "      \
                                                                                           "last");
FG_FORMS(FG_FORM_ORDER)
#undef FG_FORM_ORDER

/* Four words: comparing them is shorter than a table and a loop. */
fg_time fg_unit_ms(fg_text unit)
{
#define TIME_UNIT(word, ms)                                                                                            \
    if (fg_text_is(unit, word)) return ms;
    FG_TIME_UNITS(TIME_UNIT)
#undef TIME_UNIT
    return 0;
}
