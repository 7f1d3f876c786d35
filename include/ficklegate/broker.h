/* SPDX-License-Identifier: MIT */
/** @file
 * A message broker (MQTT 3.1.1): readings from its topics and levels to them. A broker that goes away is looked for
 * until it is back.
 *
 *     static bool show(void *context, fg_text topic, fg_text payload)
 *     {
 *         fg_text_show(stdout, topic);
 *         fg_text_show(stdout, payload);
 *         return true;
 *     }
 *
 *     void follow(fg_broker *broker)
 *     {
 *         const fg_broker_sink sink = {.message = show};
 *         while (fg_broker_turn(broker, &sink)) // and wait for fg_broker_handle with poll()
 *             continue;
 *     }
 */
#ifndef FICKLEGATE_BROKER_H
#define FICKLEGATE_BROKER_H

#include <ficklegate/files.h>

FG_PUBLIC_BEGIN

typedef struct fg_broker fg_broker;

enum { FG_BROKER_TOPICS_MOST = 64 };

typedef struct fg_broker_options {
    const char *address;         /**< mqtt://HOST[:PORT]/TOPIC, or mqtts:// for TLS; no user or password in it */
    const char *user, *password; /**< NULL: none */
    const char *ca_file;         /**< whom to trust with TLS; NULL: whom the system trusts */
    bool listens;                /**< to TOPIC and all below it */
    const char *topics[FG_BROKER_TOPICS_MOST]; /**< and to these */
    size_t topic_count;
    const char *will; /**< a topic below TOPIC that says `gone` when the connection breaks, retained; NULL: none */
} fg_broker_options;

/** What is heard. Each may end the turn by returning false. */
typedef struct fg_broker_sink {
    void *context;
    bool (*message)(void *context, fg_text topic, fg_text payload);
    void (*tell)(void *context, const char *text); /**< the broker went away, or is back; may be NULL */
} fg_broker_sink;

/** Is this the address of a broker? */
bool fg_broker_is(const char *address);

/** Connects and waits until the broker has answered, at most five seconds. NULL with a mistake: the address is none,
 * nobody answers, the broker refuses, or this library was built without MQTT. */
fg_broker *fg_broker_open(const fg_broker_options *options, fg_mistake *mistake);
/** TOPIC of its address. */
const char *fg_broker_topic(const fg_broker *broker);
/** To wait for with poll(); -1 while the broker is gone. */
int fg_broker_handle(const fg_broker *broker);
/** Hands over what has come and looks for a broker that is gone; to be called at least once a second. False: the sink
 * has heard enough. */
bool fg_broker_turn(fg_broker *broker, const fg_broker_sink *sink);
/** Publishes `payload` under TOPIC/`name` (or TOPIC, if `name` is empty). False: it could not be taken. While the
 * broker is gone it waits, in order. */
FG_MUST_CHECK bool fg_broker_publish(fg_broker *broker, fg_text name, fg_text payload, bool retain);
/** Waits for what was published, two seconds at most, and says goodbye; NULL is fine. */
void fg_broker_close(fg_broker *broker);

FG_PUBLIC_END
#endif
