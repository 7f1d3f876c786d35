/* SPDX-License-Identifier: MIT */
/* fickle manual [COMMAND]: its manual page, for man(1), out of the same texts as --help. */
#include "shell.h"

#include <ctype.h>
#include <ficklegate/version.h>
#include <stdlib.h>
#include <string.h>

/* A text in which nothing is taken for a request or an escape of roff. */
static void put(const char *text, size_t size)
{
    for (size_t i = 0; i < size; i++) {
        const char c = text[i];
        if (c == '\\')
            fputs("\\e", stdout);
        else if (c == '-')
            fputs("\\-", stdout);
        else if ((c == '.' || c == '\'') && (!i || text[i - 1] == '\n'))
            printf("\\&%c", c);
        else
            putchar(c);
    }
}

static void put_all(const char *text) { put(text, strlen(text)); }

static void head(const char *name, const char *line)
{
    char upper[80] = "";
    size_t i = 0;
    for (; name[i] && i + 1 < sizeof upper; i++) upper[i] = (char)toupper((unsigned char)name[i]);
    upper[i] = '\0';
    printf(".\\\" SPDX-License-Identifier: MIT\n.TH ");
    put_all(upper);
    printf(" 1 \"\" \"Fickle Gate %s\"\n.SH NAME\n", fg_version());
    put_all(name);
    fputs(" \\- ", stdout);
    put_all(line);
    fputs("\n", stdout);
}

static void options(const struct argp_option *all)
{
    for (const struct argp_option *o = all; o && (o->name || o->key || o->doc); o++) {
        if (!o->name || o->flags & OPTION_HIDDEN) continue;
        fputs(".TP\n", stdout);
        if (o->key > 32 && o->key < 127) printf("\\fB\\-%c\\fR, ", o->key);
        fputs("\\fB\\-\\-", stdout);
        put_all(o->name);
        fputs("\\fR", stdout);
        if (o->arg) printf("=\\fI%s\\fR", o->arg);
        fputs("\n", stdout);
        if (o->doc) put_all(o->doc);
        fputs("\n", stdout);
    }
}

static void synopsis(const tool_command *command)
{
    const char *at = command->argp->args_doc ? command->argp->args_doc : "";
    puts(".SH SYNOPSIS");
    do {
        const size_t size = strcspn(at, "\n");
        printf(".B fickle %s\n[\\fIOPTION\\fR...] ", command->name);
        put(at, size);
        puts("\n.br");
        at += size;
        if (*at) at++;
    } while (*at);
}

/* The text in front of the options and the one behind them. */
static void of_command(const tool_command *command)
{
    char name[60] = "";
    const char *doc = command->argp->doc ? command->argp->doc : "";
    const size_t front = strcspn(doc, "\v");
    snprintf(name, sizeof name, "fickle-%s", command->name);
    head(name, command->line);
    synopsis(command);
    puts(".SH DESCRIPTION");
    put(doc, front);
    if (doc[front]) {
        puts("\n.PP");
        put_all(doc + front + 1);
    }
    puts("\n.SH OPTIONS");
    options(command->argp->options);
    options(tool_common.options);
    puts(".SH SEE ALSO\n.BR fickle (1),\n.BR ficklegate (7)");
}

static void of_all(void)
{
    const tool_command *command;
    head("fickle", "threshold, hysteresis and band rules over sensor readings, tested before a board does it");
    puts(
        ".SH SYNOPSIS\n.B fickle\n\\fICOMMAND\\fR ...\n.SH DESCRIPTION\nA gate file says what is sensed, how readings "
        "are "
        "sorted into conditions and what is switched.\nThe tool checks it, plays recorded readings through it, says "
        "why "
        "each answer came about, finds limits,\nand makes C of it for a board, which then does the same, bit for bit.\n"
        ".SH COMMANDS");
    for (size_t i = 0; (command = tool_command_at(i)); i++) {
        printf(".TP\n.BR fickle\\-%s (1)\n", command->name);
        put_all(command->line);
        fputs("\n", stdout);
    }
    puts(".SH EXIT STATUS\n0 all well; 1 an expectation failed, or \\-\\-strict found a warning; 2 wrong use, or "
         "unreadable or wrong input;\n3 not decided, where \\-\\-strict asks.\n.SH SEE ALSO\n.BR ficklegate (7)");
}

int tool_manual(const char *name)
{
    const tool_command *command;
    if (!name) {
        of_all();
        return EXIT_WELL;
    }
    for (size_t i = 0; (command = tool_command_at(i)) && strcmp(command->name, name) != 0;) i++;
    if (!command) return EXIT_WRONG;
    of_command(command);
    return EXIT_WELL;
}

/* ---- fickle words: for the grammars of editors ---- */

int tool_words(void)
{
    static const char *const others[] = {"gate", "every", "include", "trial", "promise", "scene"};
    static const char *const within[] = {"always",  "never", "while",  "can",     "between", "stays",
                                         "ramps",   "jumps", "swings", "noise",   "drops",   "reads",
                                         "presses", "goes",  "plays",  "matches", "changes", "begins"};
    static const char *const colours[] = {
#define MANUAL_COLOUR(rgb, name) name,
        FG_COLOURS(MANUAL_COLOUR)
#undef MANUAL_COLOUR
    };
    uint32_t kinds;
    const char *word;
    for (int k = 0; k < FG_KINDS_IN_ALL; k++) printf("statement %s\n", fg_kind_word((fg_kind)k));
    for (size_t i = 0; i < sizeof others / sizeof *others; i++) printf("statement %s\n", others[i]);
    for (size_t i = 0; (word = fg_condition_word(i)); i++) printf("condition %s\n", word);
    for (size_t i = 0; (word = fg_attribute_word(i, &kinds)); i++) printf("row %s\n", word);
    for (size_t i = 0; i < sizeof within / sizeof *within; i++) printf("row %s\n", within[i]);
    for (int form = 0; form < FG_FORMS_IN_ALL; form++) printf("level %s\n", fg_form_word((fg_form)form));
    for (size_t i = 0; i < sizeof colours / sizeof *colours; i++) printf("level %s\n", colours[i]);
    for (size_t i = 0; (word = fg_edit_row_word(i)); i++) printf("row %s\n", word);
    return EXIT_WELL;
}
