/* SPDX-License-Identifier: MIT */
/* Decimals read and written exactly: digits go straight to whole steps, never through a float. */
#include <ficklegate/value.h>

const char *fg_status_text(fg_status status)
{
    switch (status) {
#define FG_STATUS_TEXT(code, text)                                                                                     \
    case code: return text;
        FG_STATUSES(FG_STATUS_TEXT)
#undef FG_STATUS_TEXT
    }
    return "an unknown status";
}

/* The parts of a decimal as they were written: digits, and where the point stands among them. */
typedef struct decimal {
    const char *digits, *end; /* digits with at most one point among them */
    int32_t exponent;
    bool negative;
} decimal;

/* Not isdigit: that depends on the locale. */
static bool is_digit(char c) { return c >= '0' && c <= '9'; }

static bool is_blank(char c) { return c == ' ' || c == '\t' || c == '\r' || c == '\n'; }

/* `e` and what follows it, up to `end`. Far exponents are as good as 9999: they are zero or out of range anyway. */
static bool read_exponent(const char *at, const char *end, int32_t *exponent)
{
    bool negative = at < end && *at == '-';
    if (at < end && (*at == '-' || *at == '+')) at++;
    if (at == end) return false;
    *exponent = 0;
    for (; at < end; at++) {
        if (!is_digit(*at)) return false;
        if (*exponent < 9999) *exponent = *exponent * 10 + (*at - '0');
    }
    if (negative) *exponent = -*exponent;
    return true;
}

/* Splits a decimal into sign, digits and exponent, and refuses everything else: hexadecimal, infinities and words are
 * no readings. */
static bool take_apart(const char *at, const char *end, decimal *d)
{
    while (at < end && is_blank(*at)) at++;
    while (at < end && is_blank(end[-1])) end--;
    const decimal nothing = {0};
    *d = nothing;
    d->negative = at < end && *at == '-';
    if (at < end && (*at == '-' || *at == '+')) at++;
    d->digits = at;
    size_t digits = 0, points = 0;
    for (; at < end && (is_digit(*at) || *at == '.'); at++) *at == '.' ? points++ : digits++;
    d->end = at;
    if (!digits || points > 1) return false;
    if (at == end) return true;
    return (*at == 'e' || *at == 'E') && read_exponent(at + 1, end, &d->exponent);
}

/* Digits are taken one by one until the wanted decimals are reached; the next digit rounds, halves away from zero. No
 * float is involved, so 0.1 is exactly one step of 0.1. */
fg_status fg_value_read(const char *text, size_t size, uint8_t decimals, fg_value *value)
{
    decimal d;
    if (decimals > FG_DECIMALS_MOST) return FG_ERROR_ARGUMENT;
    if (!take_apart(text, text + size, &d)) return FG_ERROR_TEXT;

    /* `places` more digits belong to whole steps; the one behind them decides the rounding. */
    const char *point = d.digits;
    while (point < d.end && *point != '.') point++;
    int32_t places = (int32_t)(point - d.digits) + decimals + d.exponent;
    uint32_t steps = 0;
    const uint32_t most = d.negative ? 2147483648u : 2147483647u;
    const char *at = d.digits;
    bool round_up = false;
    for (; places >= 0 && (places > 0 || at < d.end); places--) {
        if (at < d.end && *at == '.') at++;
        uint32_t digit = at < d.end ? (uint32_t)(*at++ - '0') : 0;
        if (places == 0) {
            round_up = digit >= 5;
            break;
        }
        /* One more digit would leave 32 bits. */
        if (steps > (most - digit) / 10) return FG_ERROR_RANGE;
        steps = steps * 10 + digit;
        if (!steps && at >= d.end) break;
    }
    if (round_up && steps == most) return FG_ERROR_RANGE;
    steps += round_up;
    *value = d.negative ? (fg_value) - (int64_t)steps : (fg_value)steps;
    return FG_OK;
}

/* Backwards, since the last digit is known first. -2147483648 has no opposite in 32 bits, so its size is taken
 * unsigned. */
size_t fg_value_write(fg_value value, uint8_t decimals, char *text)
{
    char backwards[FG_VALUE_TEXT_SIZE];
    size_t count = 0, size = 0;
    uint32_t left = value < 0 ? 0u - (uint32_t)value : (uint32_t)value;
    if (decimals > FG_DECIMALS_MOST) decimals = FG_DECIMALS_MOST;
    do {
        if (count == decimals && decimals) backwards[count++] = '.';
        backwards[count++] = (char)('0' + left % 10);
        left /= 10;
    } while (left || count < decimals + (decimals ? 2u : 1u));
    if (value < 0) text[size++] = '-';
    while (count) text[size++] = backwards[--count];
    text[size] = '\0';
    return size;
}
