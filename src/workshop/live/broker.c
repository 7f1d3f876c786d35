/* SPDX-License-Identifier: MIT */
/* Brokers, by libmosquitto. */
#include "workshop/base/buffer.h"

#include <ficklegate/broker.h>

#include <string.h>

static const char plain[] = "mqtt://", secure[] = "mqtts://";

bool fg_broker_is(const char *address)
{
    return !strncmp(address, plain, sizeof plain - 1) || !strncmp(address, secure, sizeof secure - 1);
}

#ifndef FG_WITHOUT_MQTT
#include <errno.h>
#include <inttypes.h>
#include <mosquitto.h>
#include <poll.h>
#include <stdlib.h>
#include <time.h>
#include <unistd.h>

enum { KEEPALIVE_S = 20, ANSWERS_WITHIN_MS = 5000, AGAIN_MS = 1000, GOODBYE_MS = 2000 };

struct fg_broker {
    struct mosquitto *client;
    fg_broker_options options;
    char *host, *topic, *will;
    int port;
    bool tls;
    bool connected, refused;
    bool away, ended; /* the connection broke; the sink has heard enough */
    int answer;       /* of the broker to the first connection */
    int64_t tried_ms;
    int waiting; /* messages that were published and not yet taken */
    const fg_broker_sink *sink;
};

static int64_t now_ms(void)
{
    struct timespec now;
    clock_gettime(CLOCK_MONOTONIC, &now);
    return (int64_t)now.tv_sec * 1000 + now.tv_nsec / 1000000;
}

/* False, after a mistake was set. */
static bool refused(fg_status told)
{
    (void)told;
    return false;
}

/* ---- the address ---- */

static bool take_apart(fg_broker *b, fg_mistake *mistake)
{
    const char *address = b->options.address;
    b->tls = !strncmp(address, secure, sizeof secure - 1);
    const char *host = address + (b->tls ? sizeof secure : sizeof plain) - 1;
    const size_t size = strcspn(host, "/");
    const fg_text whole = {host, size};
    const char *colon = memchr(host, ':', size);
    const char *topic = host[size] ? host + size + 1 : "";
    b->port = b->tls ? 8883 : 1883;
    if (memchr(host, '@', size))
        return refused(
            fg_mistake_set(mistake, FG_ERROR_FILE, "mqtt", 0,
                           "no user or password stands in the address, where others can read it; set FICKLE_USER and "
                           "FICKLE_PASSWORD, or use --login FILE"));
    if (colon) {
        char *end;
        const long port = strtol(colon + 1, &end, 10);
        if (end != host + size || port < 1 || port > 65535 || end == colon + 1)
            return refused(fg_mistake_set(mistake, FG_ERROR_FILE, address, 0,
                                          "the port behind the colon is a number from 1 to 65535"));
        b->port = (int)port;
    }
    b->host = fg_c_string_of((fg_text){host, colon ? (size_t)(colon - host) : whole.size});
    b->topic = fg_c_string_of(fg_text_of(topic));
    if (!b->host || !b->topic)
        return refused(fg_mistake_set(mistake, FG_ERROR_MEMORY, address, 0, "there is not enough memory"));
    for (size_t last = strlen(b->topic); last && b->topic[last - 1] == '/'; last--) b->topic[last - 1] = '\0';
    if (*b->host && *b->topic && mosquitto_pub_topic_check(b->topic) == MOSQ_ERR_SUCCESS) return true;
    return refused(
        fg_mistake_set(mistake, FG_ERROR_FILE, address, 0,
                       "an address has a host and a topic without + or #, as in mqtt://localhost/garden/barrel"));
}

/* ---- what the broker says ---- */

static void listen_to(const fg_broker *b, const char *topic, bool below)
{
    char *pattern = malloc(strlen(topic) + 3);
    if (!pattern) return;
    (void)snprintf(pattern, strlen(topic) + 3, below ? "%s/#" : "%s", topic);
    (void)mosquitto_subscribe(b->client, NULL, pattern, 0);
    free(pattern);
}

static void on_connect(struct mosquitto *client, void *context, int answer)
{
    fg_broker *b = context;
    b->answer = answer;
    b->refused = answer != 0;
    if (b->refused) return;
    b->connected = true;
    if (b->away && b->sink && b->sink->tell) b->sink->tell(b->sink->context, "the broker is back");
    b->away = false;
    if (b->options.listens) listen_to(b, b->topic, true);
    for (size_t i = 0; i < b->options.topic_count; i++) listen_to(b, b->options.topics[i], false);
    if (b->will) (void)mosquitto_publish(client, NULL, b->will, 7, "running", 1, true);
}

static void on_disconnect(struct mosquitto *client, void *context, int why)
{
    fg_broker *b = context;
    (void)client;
    (void)why;
    b->connected = false;
}

static void on_message(struct mosquitto *client, void *context, const struct mosquitto_message *m)
{
    fg_broker *b = context;
    (void)client;
    if (b->ended || !b->sink || !b->sink->message) return;
    b->ended = !b->sink->message(b->sink->context, fg_text_of(m->topic), (fg_text){m->payload, (size_t)m->payloadlen});
}

static void on_publish(struct mosquitto *client, void *context, int number)
{
    (void)client;
    (void)number;
    ((fg_broker *)context)->waiting--;
}

/* ---- the connection ---- */

static bool prepare(fg_broker *b, fg_mistake *mistake)
{
    const fg_broker_options *o = &b->options;
    mosquitto_connect_callback_set(b->client, on_connect);
    mosquitto_disconnect_callback_set(b->client, on_disconnect);
    mosquitto_message_callback_set(b->client, on_message);
    mosquitto_publish_callback_set(b->client, on_publish);
    if (o->user) (void)mosquitto_username_pw_set(b->client, o->user, o->password);
    if (b->will) (void)mosquitto_will_set(b->client, b->will, 4, "gone", 1, true);
    if (!b->tls) return true;
    if (o->ca_file && access(o->ca_file, R_OK) != 0)
        return refused(fg_mistake_set(mistake, FG_ERROR_FILE, o->ca_file, 0, "cannot be read: %s", strerror(errno)));
    const int error = mosquitto_tls_set(b->client, o->ca_file, o->ca_file ? NULL : "/etc/ssl/certs", NULL, NULL, NULL);
    return error == MOSQ_ERR_SUCCESS ||
           refused(fg_mistake_set(mistake, FG_ERROR_FILE, o->ca_file ? o->ca_file : "mqtts", 0,
                                  "holds no certificates that can be used: %s", mosquitto_strerror(error)));
}

static void tell_refused(const fg_broker *b, int error, fg_mistake *mistake)
{
    const int saved = errno;
    if (b->refused && (b->answer == 4 || b->answer == 5))
        (void)fg_mistake_set(mistake, FG_ERROR_FILE, b->options.address, 0,
                             "the broker refuses: it wants another user or password; set FICKLE_USER and "
                             "FICKLE_PASSWORD, or use --login FILE");
    else if (b->refused)
        (void)fg_mistake_set(mistake, FG_ERROR_FILE, b->options.address, 0, "the broker refuses: %s",
                             mosquitto_connack_string(b->answer));
    else if (error == MOSQ_ERR_EAI)
        (void)fg_mistake_set(mistake, FG_ERROR_FILE, b->options.address, 0, "there is no host '%s'", b->host);
    else if (error == MOSQ_ERR_TLS)
        (void)fg_mistake_set(mistake, FG_ERROR_FILE, b->options.address, 0,
                             "the broker cannot be trusted, or speaks no TLS there; --ca FILE names whom to trust");
    else
        (void)fg_mistake_set(mistake, FG_ERROR_FILE, b->options.address, 0,
                             "nobody answers at %s, port %d%s%s; is the broker running?", b->host, b->port,
                             error == MOSQ_ERR_ERRNO ? ": " : "", error == MOSQ_ERR_ERRNO ? strerror(saved) : "");
}

static bool connect_first(fg_broker *b, fg_mistake *mistake)
{
    int error = mosquitto_connect(b->client, b->host, b->port, KEEPALIVE_S);
    const int64_t until = now_ms() + ANSWERS_WITHIN_MS;
    while (error == MOSQ_ERR_SUCCESS && !b->connected && !b->refused && now_ms() < until)
        error = mosquitto_loop(b->client, 50, 1);
    if (b->connected) return true;
    tell_refused(b, error, mistake);
    return false;
}

fg_broker *fg_broker_open(const fg_broker_options *options, fg_mistake *mistake)
{
    fg_broker *b = calloc(1, sizeof *b);
    *mistake = (fg_mistake){0};
    if (!b) {
        (void)fg_mistake_set(mistake, FG_ERROR_MEMORY, options->address, 0, "there is not enough memory");
        return NULL;
    }
    (void)mosquitto_lib_init();
    b->options = *options;
    bool good = take_apart(b, mistake);
    if (good && options->will && b->topic) {
        const size_t size = strlen(b->topic) + strlen(options->will) + 2;
        b->will = malloc(size);
        if (b->will) (void)snprintf(b->will, size, "%s/%s", b->topic, options->will);
    }
    if (good) b->client = mosquitto_new(NULL, true, b);
    good = b->client && prepare(b, mistake) && connect_first(b, mistake);
    if (good) return b;
    if (!*mistake->text)
        (void)fg_mistake_set(mistake, FG_ERROR_MEMORY, options->address, 0, "there is not enough memory");
    if (b->client) mosquitto_destroy(b->client);
    b->client = NULL;
    fg_broker_close(b);
    return NULL;
}

const char *fg_broker_topic(const fg_broker *b) { return b->topic; }

int fg_broker_handle(const fg_broker *b) { return b->away ? -1 : mosquitto_socket(b->client); }

bool fg_broker_turn(fg_broker *b, const fg_broker_sink *sink)
{
    b->sink = sink;
    const int64_t now = now_ms();
    if (b->away && !b->connected && mosquitto_socket(b->client) < 0) {
        if (now - b->tried_ms >= AGAIN_MS) {
            b->tried_ms = now;
            (void)mosquitto_reconnect_async(b->client);
        }
    }
    const int error = mosquitto_socket(b->client) < 0 ? MOSQ_ERR_NO_CONN : mosquitto_loop(b->client, 0, 1);
    if (error != MOSQ_ERR_SUCCESS && !b->away) {
        b->away = true;
        b->connected = false;
        b->tried_ms = now;
        if (sink->tell) sink->tell(sink->context, "the broker is gone; it goes on when the broker is back");
    }
    b->sink = NULL;
    return !b->ended;
}

bool fg_broker_publish(fg_broker *b, fg_text name, fg_text payload, bool retain)
{
    const size_t size = strlen(b->topic) + name.size + 2;
    char *topic = malloc(size);
    if (!topic) return false;
    (void)snprintf(topic, size, name.size ? "%s/%.*s" : "%s", b->topic, (int)name.size, name.at);
    const int error = mosquitto_publish(b->client, NULL, topic, (int)payload.size, payload.at, retain ? 1 : 0, retain);
    free(topic);
    const bool taken = error == MOSQ_ERR_SUCCESS || error == MOSQ_ERR_NO_CONN; /* which keeps it until it is back */
    b->waiting += taken;
    return taken;
}

void fg_broker_close(fg_broker *b)
{
    if (!b) return;
    const int64_t until = now_ms() + GOODBYE_MS;
    if (b->client) {
        if (b->will && b->connected &&
            mosquitto_publish(b->client, NULL, b->will, 4, "gone", 1, true) == MOSQ_ERR_SUCCESS)
            b->waiting++;
        while (b->connected && b->waiting > 0 && now_ms() < until)
            if (mosquitto_loop(b->client, 20, 1) != MOSQ_ERR_SUCCESS) break;
        (void)mosquitto_disconnect(b->client);
        mosquitto_destroy(b->client);
    }
    (void)mosquitto_lib_cleanup();
    free(b->host);
    free(b->topic);
    free(b->will);
    free(b);
}

#else
#include <stdlib.h>

fg_broker *fg_broker_open(const fg_broker_options *options, fg_mistake *mistake)
{
    *mistake = (fg_mistake){0};
    (void)fg_mistake_set(mistake, FG_ERROR_FILE, options->address, 0,
                         "this program was built without brokers; install libmosquitto-dev and build it again");
    return NULL;
}

const char *fg_broker_topic(const fg_broker *b)
{
    (void)b;
    return "";
}

int fg_broker_handle(const fg_broker *b)
{
    (void)b;
    return -1;
}

bool fg_broker_turn(fg_broker *b, const fg_broker_sink *sink)
{
    (void)b;
    (void)sink;
    return false;
}

bool fg_broker_publish(fg_broker *b, fg_text name, fg_text payload, bool retain)
{
    (void)b;
    (void)name;
    (void)payload;
    (void)retain;
    return false;
}

void fg_broker_close(fg_broker *b) { (void)b; }
#endif
