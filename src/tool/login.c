/* SPDX-License-Identifier: MIT */
/* Who somebody is for a broker: from the environment or a file, never from the command line, which others can see. */
#include "tool.h"

#include <stdlib.h>
#include <string.h>

/* The line that begins at `at`, which becomes a text of its own. */
static char *take_line(char **at)
{
    char *line = *at, *end = line + strcspn(line, "\r\n");
    *at = end + strspn(end, "\r\n");
    *end = '\0';
    return *line ? line : NULL;
}

typedef struct credentials {
    const char *user, *password; /* NULL: nobody */
    char room[1001];
} credentials;

/* False, told: the file cannot be read. */
static bool read_credentials(const char *file, credentials *c)
{
    enum { MOST = 1000 };
    fg_mistake mistake;
    fg_text text;
    *c = (credentials){.user = getenv("FICKLE_USER"), .password = getenv("FICKLE_PASSWORD")};
    if (!file) return true;
    if (fg_file_read(file, MOST, &text, &mistake) != FG_OK) {
        tool_print_mistake(&mistake);
        return false;
    }
    if (text.size) memcpy(c->room, text.at, text.size); /* it is no longer than that */
    fg_text_free(text);
    char *at = c->room;
    c->user = take_line(&at);
    c->password = take_line(&at);
    if (c->user) return true;
    tool_say("%s: error: has no user; the first line is the user, the second the password\n", file);
    return false;
}

fg_broker *tool_broker_open(const fg_broker_options *options, const char *login)
{
    credentials who;
    fg_mistake mistake;
    fg_broker_options all = *options;
    if (!read_credentials(login, &who)) return NULL;
    all.user = who.user;
    all.password = who.password;
    fg_broker *broker = fg_broker_open(&all, &mistake);
    if (!broker) tool_print_mistake(&mistake);
    return broker;
}
