/* SPDX-License-Identifier: MIT-0 OR MIT */
/* Parts of baked gates: what displays show, cut by characters. */

/* A line while it is written. */
typedef struct fg_writer {
    char *at;
    uint16_t room; /* bytes */
    uint8_t left;  /* characters */
    bool cut;
} fg_writer;

/* One byte; a character that does not fit any more ends the line. */
static void put(fg_writer *w, char c)
{
    const bool begins = ((unsigned char)c & 0xc0) != 0x80;
    if ((begins && !w->left) || !w->room) w->cut = true;
    if (w->cut) return;
    if (begins) w->left--;
    w->room--;
    *w->at++ = c;
}

/* A text that stands in flash. */
static void put_text(fg_writer *w, const char *text)
{
    for (char c = FLASH_CHAR(text); c; c = FLASH_CHAR(++text)) put(w, c);
}

/* A value of so many decimals. */
static void put_value(fg_writer *w, int32_t value, uint8_t decimals)
{
    char backwards[16];
    uint8_t count = 0;
    uint32_t left = value < 0 ? 0u - (uint32_t)value : (uint32_t)value;
    do {
        if (count == decimals && decimals) backwards[count++] = '.';
        backwards[count++] = (char)('0' + left % 10);
        left /= 10;
    } while (left || count < decimals + (decimals ? 2u : 1u));
    if (value < 0) put(w, '-');
    while (count) put(w, backwards[--count]);
}

/* yes, no, or ? */
static void put_answer(fg_writer *w, uint8_t answer)
{
    if (answer == YES)
        put_text(w, FLASH_TEXT("yes"));
    else if (answer == NO)
        put_text(w, FLASH_TEXT("no"));
    else
        put(w, '?');
}

/* A strength behind a level; all of it is not written. */
static void put_percent(fg_writer *w, int32_t percent)
{
    if (percent >= 100) return;
    put(w, ' ');
    put_value(w, percent, 0);
    put(w, '%');
}

/* A colour as it is written. */
static void put_colour(fg_writer *w, uint32_t colour)
{
    put(w, '"');
    for (int8_t shift = 20; shift >= 0; shift = (int8_t)(shift - 4)) {
        const uint8_t digit = (uint8_t)(colour >> shift & 15);
        put(w, (char)(digit < 10 ? '0' + digit : 'a' + digit - 10));
    }
    put(w, '"');
}

/* A text that stands in flash goes out. */
static void send_flash(const char *text, void (*out)(void *context, char c), void *context)
{
    for (char c = FLASH_CHAR(text); c; c = FLASH_CHAR(++text)) out(context, c);
}

/* What was written from `text` on goes out. */
static void send_written(const char *text, const fg_writer *w, void (*out)(void *context, char c), void *context)
{
    while (text < w->at) out(context, *text++);
}

/* A line of a display, in quotes; those inside of it are doubled. */
static void send_quoted(const char *text, const fg_writer *w, uint8_t line, void (*out)(void *context, char c),
                        void *context)
{
    if (line) out(context, ',');
    out(context, ' ');
    out(context, '"');
    for (; text < w->at; text++) {
        if (*text == '"') out(context, '"');
        out(context, *text);
    }
    out(context, '"');
}

/* A reading, if it is one. */
static void send_value(int32_t value, uint8_t decimals, bool good, void (*out)(void *context, char c), void *context)
{
    char text[16];
    fg_writer w = {text, sizeof text, sizeof text, false};
    if (good)
        put_value(&w, value, decimals);
    else
        put_text(&w, FLASH_TEXT("faulty"));
    send_written(text, &w, out, context);
}

/* A flag as it was read, before it was inverted. */
static void send_flag(uint8_t flag, bool inverted, void (*out)(void *context, char c), void *context)
{
    if (flag != YES && flag != NO)
        send_flash(FLASH_TEXT("faulty"), out, context);
    else
        send_flash((flag == YES) != inverted ? FLASH_TEXT("yes") : FLASH_TEXT("no"), out, context);
}

/* The time in front of a line. */
static void send_time(uint32_t now, void (*out)(void *context, char c), void *context)
{
    char text[16];
    fg_writer w = {text, sizeof text, sizeof text, false};
    put_text(&w, FLASH_TEXT("t_ms="));
    if (now >= 10) put_value(&w, (int32_t)(now / 10), 0);
    put(&w, (char)('0' + now % 10));
    send_written(text, &w, out, context);
}
