/* SPDX-License-Identifier: MIT */
/* How many rows belong to a stretch in which nothing changes (quiet.c): columns are looked through for the first number
 * that goes further, windows and sums are worked out over many rows at once, with the error that this can have. */
#include "workshop/replay/quiet.h"

#include <math.h>

/* How many numbers from the first on are within a range. */
static size_t within(const int32_t *numbers, size_t count, int32_t low, int32_t high)
{
    enum { STRIDE = 32 };
    size_t i = 0;
    for (; i + STRIDE <= count; i += STRIDE) {
        int32_t out = 0;
        for (size_t k = 0; k < STRIDE; k++) out |= (numbers[i + k] < low) | (numbers[i + k] > high);
        if (out) break;
    }
    while (i < count && numbers[i] >= low && numbers[i] <= high) i++;
    return i;
}

static fg_value value_of(const fg_quiet *q, size_t column, int32_t number)
{
    const fg_input *input = &q->inputs[column];
    const fg_sensor *sensor = &fg_quiet_gate(q)->sensors[input->number];
    fg_value value = number;
    if (input->counts) (void)fg_scale_value(sensor->scale, sensor->scale_count, number, &value); /* see carry_back */
    return value;
}

/* The value that is so many rows, less the size of the window, from the first row on: one of this column, or one that
 * the window had before the stretch began. */
static fg_value value_at(const fg_quiet *q, size_t column, const fg_number_rows *rows, size_t row_and_size)
{
    const uint16_t number = q->inputs[column].number;
    const fg_sensor *sensor = &fg_quiet_gate(q)->sensors[number];
    const fg_sensor_state *state = &q->wants.run->sensors[number];
    const fg_value *ring = &q->wants.run->window_values[sensor->window_at];
    if (row_and_size >= q->start + sensor->window)
        return value_of(q, column, rows->columns[column][row_and_size - sensor->window]);
    return ring[(state->head + row_and_size - q->start) % sensor->window];
}

/* How many rows from the first on have nothing outside of a range in their window, what it had before included. */
static size_t rows_inside(const fg_quiet *q, size_t column, const fg_number_rows *rows, size_t from, size_t count,
                          int64_t low, int64_t high)
{
    const uint8_t size = fg_quiet_gate(q)->sensors[q->inputs[column].number].window;
    if (q->inputs[column].counts) return 0;
    for (size_t i = from; i < from + size; i++) {
        const fg_value one = value_at(q, column, rows, i);
        if (one < low || one > high) return 0;
    }
    return within(rows->columns[column] + from, count, low < INT32_MIN ? INT32_MIN : (int32_t)low,
                  high > INT32_MAX ? INT32_MAX : (int32_t)high);
}

/* A median is below a limit if most of its window is; a mean by its sum. Where the whole window is inside, both are. */
static size_t window_rows(const fg_quiet *q, size_t column, const fg_number_rows *rows, size_t from, size_t count)
{
    const uint16_t number = q->inputs[column].number;
    const fg_sensor *sensor = &fg_quiet_gate(q)->sensors[number];
    const fg_sensor_state *state = &q->wants.run->sensors[number];
    const fg_range *wanted = &q->wants.of[number];
    const uint8_t size = sensor->window, half = (uint8_t)((size - 1) / 2);
    const int64_t zero = sensor->stages & FG_STAGE_ZERO ? state->zero : 0;
    const int64_t low = wanted->low + zero, high = wanted->high + zero;
    if (wanted->low == INT32_MIN && wanted->high == INT32_MAX && !zero) return count;
    const size_t end = from + count;
    from += rows_inside(q, column, rows, from, count, low, high);
    if (from == end) return count;
    int64_t below = 0, above = 0, sum = 0;
    for (size_t i = from; i < from + size; i++) {
        const fg_value one = value_at(q, column, rows, i);
        below += one < low;
        above += one > high;
        sum += one;
    }
    for (; from < end; from++) {
        const fg_value oldest = value_at(q, column, rows, from);
        const fg_value newest = value_of(q, column, rows->columns[column][from]);
        below += (newest < low) - (oldest < low);
        above += (newest > high) - (oldest > high);
        sum += (int64_t)newest - oldest;
        const bool in = sensor->stages & FG_STAGE_MEAN
                            ? 2 * sum > (2 * low - 1) * size && 2 * sum < (2 * high + 1) * size
                            : below <= half && above <= half;
        if (!in) break;
    }
    return count - (end - from);
}

static void settle_error(fg_series *s, double error, double most)
{
    s->most = most;
    s->error = error + 1 + most * 1e-14;
}

static void read_series(const fg_quiet *q, const fg_term *t, const fg_number_rows *rows, size_t from, size_t count,
                        fg_series *to)
{
    const fg_sensor_state *state = &q->wants.run->sensors[t->sensor];
    const int32_t *numbers = rows->columns[q->column_of[t->sensor]] + from;
    const fg_sensor *sensor = &fg_quiet_gate(q)->sensors[t->sensor];
    /* on a circle each number is in the turn of the newest: see before_stages */
    const double turn = sensor->circle ? (double)state->newest - (double)state->value : 0;
    const double zero = sensor->stages & FG_STAGE_ZERO ? (double)state->zero : turn;
    const double factor = (double)t->number;
    for (size_t i = 0; i < count; i++) to->at[i] = ((double)numbers[i] - zero) * factor;
    settle_error(to, 0, 4294967296.0 * factor);
}

static void take_two(const fg_term *t, fg_series *a, const fg_series *b, size_t count)
{
    switch ((fg_term_kind)t->kind) {
    case FG_TERM_ADD:
        for (size_t i = 0; i < count; i++) a->at[i] += b->at[i];
        settle_error(a, a->error + b->error, a->most + b->most);
        return;
    case FG_TERM_SUBTRACT:
        for (size_t i = 0; i < count; i++) a->at[i] -= b->at[i];
        settle_error(a, a->error + b->error, a->most + b->most);
        return;
    case FG_TERM_MULTIPLY:
        for (size_t i = 0; i < count; i++) a->at[i] *= b->at[i] * 1e-6;
        settle_error(a, (a->error * b->most + b->error * a->most + a->error * b->error) * 1e-6,
                     a->most * b->most * 1e-6);
        return;
    case FG_TERM_LOWEST:
        for (size_t i = 0; i < count; i++) a->at[i] = a->at[i] < b->at[i] ? a->at[i] : b->at[i];
        break;
    default: /* the highest */
        for (size_t i = 0; i < count; i++) a->at[i] = a->at[i] > b->at[i] ? a->at[i] : b->at[i];
        break;
    }
    settle_error(a, fmax(a->error, b->error), fmax(a->most, b->most));
}

static void take_length(fg_series *v, uint8_t count, size_t rows)
{
    double error = 0, most = 0;
    for (size_t i = 0; i < rows; i++) {
        double square = v[0].at[i] * v[0].at[i];
        for (uint8_t k = 1; k < count; k++) square += v[k].at[i] * v[k].at[i];
        v[0].at[i] = sqrt(square);
    }
    for (uint8_t k = 0; k < count; k++) {
        error += v[k].error;
        most += v[k].most;
    }
    settle_error(v, error, most);
}

/* How many rows from the first on a sum is surely where it is wanted. */
static size_t sum_rows(fg_quiet *q, uint16_t number, const fg_number_rows *rows, size_t from, size_t count)
{
    const fg_sensor *sum = &fg_quiet_gate(q)->sensors[number];
    const fg_range *wanted = &q->wants.of[number];
    fg_series *stack = q->stack;
    int top = 0;
    for (uint16_t i = 0; i < sum->term_count; i++) {
        const fg_term *t = &fg_quiet_gate(q)->terms[sum->first_term + i];
        if (t->kind == FG_TERM_SENSOR) {
            read_series(q, t, rows, from, count, &stack[top++]);
        } else if (t->kind == FG_TERM_NUMBER) {
            for (size_t k = 0; k < count; k++) stack[top].at[k] = (double)t->number;
            settle_error(&stack[top++], 0, fabs((double)t->number));
        } else if (t->kind == FG_TERM_NEGATE) {
            for (size_t k = 0; k < count; k++) stack[top - 1].at[k] = -stack[top - 1].at[k];
        } else if (t->kind == FG_TERM_ABS) {
            for (size_t k = 0; k < count; k++) stack[top - 1].at[k] = fabs(stack[top - 1].at[k]);
        } else if (t->kind == FG_TERM_LENGTH) {
            top -= t->count - 1;
            take_length(&stack[top - 1], t->count, count);
        } else {
            top--;
            take_two(t, &stack[top - 1], &stack[top], count);
        }
        if (!(stack[top - 1].most < 9e18)) return 0; /* 64 bits may be too few */
    }
    const double step = fg_quiet_millionths(sum->decimals);
    const double low = ((double)wanted->low - 0.5) * step + stack->error,
                 high = ((double)wanted->high + 0.5) * step - stack->error;
    size_t i = 0;
    while (i < count && stack->at[i] > low && stack->at[i] < high) i++;
    return i;
}

size_t fg_quiet_rows(fg_quiet *q, const fg_number_rows *rows, size_t from, size_t to)
{
    const fg_gate *gate = fg_quiet_gate(q);
    size_t count = to - from;
    for (size_t i = 0; i < q->width; i++)
        if (rows->holes || q->low[i] > -INT32_MAX || q->high[i] < INT32_MAX)
            count = within(rows->columns[i] + from, count, q->low[i], q->high[i]);
    for (size_t i = 0; i < q->width; i++) {
        const uint16_t number = q->inputs[i].number;
        if (number < gate->size.sensors && gate->sensors[number].window && q->wants.run->sensors[number].ok)
            count = window_rows(q, i, rows, from, count);
    }
    for (uint16_t i = 0; i < gate->size.sensors; i++) {
        if (!gate->sensors[i].term_count || !q->by_value[i]) continue;
        size_t good = 0;
        for (size_t part = FG_SERIES_ROWS; part == FG_SERIES_ROWS && good < count; good += part) {
            const size_t most = count - good < FG_SERIES_ROWS ? count - good : FG_SERIES_ROWS;
            part = sum_rows(q, i, rows, from + good, most);
            if (part < most) count = good + part;
        }
    }
    return count;
}
