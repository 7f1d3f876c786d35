/* SPDX-License-Identifier: MIT */
/* The longer text behind each kind of finding, with a wrong and a right example. The tests compile them all. */
#include <ficklegate/findings.h>

#define S "sensor depth { unit cm; step 0.1 }\n"

static const fg_code_text texts[FG_FINDING_CODES] = {
    [FG_FIND_TEXT] = {"A character stands where it means nothing. Names are letters, digits and _; everything else "
                      "that is meant for people stands in \"quotes\".",
                      "flag key\nlamp red { on when key? }\n", "flag key\nlamp red { on when key }\n"},
    [FG_FIND_SYNTAX] = {"Something else was expected here. The message says what can stand in this place.",
                        S "threshold deep from depth { over }\n", S "threshold deep from depth { over 5 }\n"},
    [FG_FIND_NOT_CLOSED] =
        {"A bracket, brace or text was opened and not closed. The message marks where it was opened.",
         "flag key\ncondition c = (key\n", "flag key\ncondition c = (key)\n"},
    [FG_FIND_UNKNOWN] = {"This name is declared nowhere. Upper and lower case matter.",
                         "flag key\nlamp red { on when kye }\n", "flag key\nlamp red { on when key }\n"},
    [FG_FIND_UNKNOWN_WORD] = {"This word does not belong here. The message lists what can, or the nearest one.",
                              "sensor depth { stp 0.1 }\n", "sensor depth { step 0.1 }\n"},
    [FG_FIND_RESERVED] = {"The words of conditions cannot be names, or `near or far` could not be read.", "flag near\n",
                          "flag nearby\n"},
    [FG_FIND_TWICE] = {"This stands a second time. Each name, and each attribute of a declaration, stands once.",
                       "flag key\nflag key\n", "flag key\nflag other_key\n"},
    [FG_FIND_MISSING] = {"A part is missing without which this cannot work.",
                         S "threshold deep from depth { margin 1 }\n",
                         S "threshold deep from depth { over 5; margin 1 }\n"},
    [FG_FIND_UNIT] = {"A unit is not the one that belongs here. It may be left out, but not be another.",
                      S "threshold deep from depth { over 5 kg }\n", S "threshold deep from depth { over 5 cm }\n"},
    [FG_FIND_FINER] = {"A sensor counts in whole steps, so a limit between two of them would belong to neither. Write "
                       "one of the two neighbours.",
                       S "threshold deep from depth { over 5.05 }\n", S "threshold deep from depth { over 5.1 }\n"},
    [FG_FIND_RANGE] = {"The number is outside of what this place takes.", "lamp red { on 120% }\n",
                       "lamp red { on 100% }\n"},
    [FG_FIND_ORDER] = {"Cuts rise, ranges begin at their lower end, times at the earlier one.",
                       S "bands tide from depth { low | 60 | mid | 20 | high }\n",
                       S "bands tide from depth { low | 20 | mid | 60 | high }\n"},
    [FG_FIND_CYCLE] = {"A name depends on itself, through the names the message lists. `previously NAME` looks one "
                       "step back and closes no circle.",
                       "flag key\ncondition a = key or b\ncondition b = not a\n",
                       "flag key\ncondition a = key or b\ncondition b = not previously a\n"},
    [FG_FIND_KIND] = {"The name is known, but is declared as something else than what belongs here.",
                      S "lamp red { on when depth }\n", S "lamp red { on when depth over 5 }\n"},
    [FG_FIND_BOTH] = {"For some readings `on` and `off` would both hold. Between the limits of a hysteresis the answer "
                      "stays, so they lie apart.",
                      S "hysteresis pumping from depth { on over 10; off under 12 }\n",
                      S "hysteresis pumping from depth { on over 12; off under 10 }\n"},
    [FG_FIND_CIRCLE] =
        {"On a circle nothing is over or under, numbers run from 0 to one step under a turn, and a list of cuts ends "
         "with the cut where the first label begins again.",
         "sensor vane { unit deg; circle 360 }\nbands side from vane { north | 90 | east | 180 | south }\n",
         "sensor vane { unit deg; circle 360 }\nbands side from vane { north | 90 | east | 180 | south | 270 }\n"},
    [FG_FIND_MARGIN] = {"With this margin one answer would keep every reading and never change again.",
                        S "threshold odd from depth { outside 10..20; margin 6 }\n",
                        S "threshold odd from depth { outside 10..20; margin 3 }\n"},
    [FG_FIND_LEVEL] = {"Each kind of output has its own levels.", "relay heater { on 40% }\n",
                       "lamp heater { on 40% }\n"},
    [FG_FIND_BRACKETS] = {"This can be read in two ways. Brackets say which is meant.",
                          "flag a\nflag b\ncondition c = a and b for 2s\n",
                          "flag a\nflag b\ncondition c = (a and b) for 2s\n"},
    [FG_FIND_INCLUDE] = {"A file cannot be included: it is not there, it includes itself, or it holds `gate` or "
                         "`every`, which stand in the outermost file.",
                         "include \"nowhere.gate\"\nflag key\n", "flag key\n"},
    [FG_FIND_SUM] = {"A sensor that is worked out has functions with a certain number of parts, and no `raw`, `stale` "
                     "or `stuck`: those belong to the sensors in it.",
                     S "sensor wave = rate(depth + 1, 5) { unit cm/s }\n",
                     S "sensor wave = rate(depth, 5) { unit cm/s }\n"},
    [FG_FIND_TOO_MANY] =
        {"There is a limit to how much one gate holds. Split it, or give parts a name of their own.",
         "flag a\ncondition c = "
         "((((((((((((((((((((((((((((((((((((((((((((((((((((((((((((((((((((((((((((((((((((((((((((((((((((((((a"
         "))))))))))))))))))))))))))))))))))))))))))))))))))))))))))))))))))))))))))))))))))))))))))))))))))))))))\n",
         "flag a\ncondition c = ((a))\n"},
    [FG_FIND_GAP] = {"Readings between two ranges are in no band. If that is meant, an `otherwise` row says so.",
                     S "bands fit from depth { low 0..10; high 10.2..20 }\n",
                     S "bands fit from depth { low 0..10; high 10.1..20 }\n"},
    [FG_FIND_SHARED] = {"Two ranges have the same readings. The one that stands first wins.",
                        S "bands fit from depth { low 0..10; high 8..20 }\n",
                        S "bands fit from depth { low 0..7.9; high 8..20 }\n"},
    [FG_FIND_NEVER_WINS] = {"Something above takes everything this row could have.",
                            "flag key\nlamp red { on; off when key }\n", "flag key\nlamp red { off when key; on }\n"},
    [FG_FIND_UNREACHED] = {"No reading can come to this limit: they end before, by `trust` or by the scale.",
                           "sensor depth { trust 4..246 }\nthreshold deep from depth { over 300 }\n",
                           "sensor depth { trust 4..246 }\nthreshold deep from depth { over 200 }\n"},
    [FG_FIND_WIDE_MARGIN] = {"From inside a band one leaves it only past its margin. One wider than half of the "
                             "narrowest band reaches over the middle of it.",
                             S "bands tide from depth { low | 20 | mid | 24 | high; margin 3 }\n",
                             S "bands tide from depth { low | 20 | mid | 24 | high; margin 1 }\n"},
    [FG_FIND_TIME] =
        {"A gate with `every` looks at its readings at that pace, so a time ends with the first step after "
         "it. Without `every` it looks only when a reading comes.",
         "every 100ms\n" S "threshold deep from depth { over 5; settle 250ms }\n",
         "every 100ms\n" S "threshold deep from depth { over 5; settle 300ms }\n"},
    [FG_FIND_UNUSED] = {"This is declared and used nowhere, or set and never cleared.", S,
                        S "lamp red { on when depth over 5 }\n"},
    [FG_FIND_CONSTANT] = {"From the limits alone this condition is always the same, whatever the sensor reads.",
                          S "condition odd = depth over 10 and depth under 5\n",
                          S "condition odd = depth over 10 or depth under 5\n"},
    [FG_FIND_ODD] =
        {"Of four or more bands most have one width and this one has another. A digit may be missing or wrong.",
         S "bands e from depth { a | 10 | b | 20 | c | 30 | d | 45 | e | 50 | f }\n",
         S "bands e from depth { a | 10 | b | 20 | c | 30 | d | 40 | e | 50 | f }\n"},
    [FG_FIND_TOUCHING] =
        {"Both ends of a range are in it, so where one range ends on the reading at which the next one "
         "begins, both have it, and the row that stands first wins.",
         S "bands e from depth { low 0..20; high 20..40 }\n", S "bands e from depth { low | 20 | high }\n"},
    [FG_FIND_DEAD_BAND] =
        {"A hysteresis keeps its answer between its two limits. With both at one number there is nothing "
         "between them, and noise there switches it on and off.",
         S "hysteresis full from depth { on over 20; off under 20 }\n",
         S "hysteresis full from depth { on over 20; off under 18 }\n"},
    [FG_FIND_UNSURE] = {"When a reading is missing, a motor, relay or servo rests. If that is what you want, say so "
                        "with a row of its own, so that the next reader knows.",
                        S "motor pump { forward when depth over 5 }\n",
                        S "motor pump { forward when depth over 5; stop if unsure }\n"},
    [FG_FIND_KEPT] =
        {"A count or a pulse keeps what it was while a reading is missing. A motor, relay or servo that hangs "
         "on one goes on then. If it should not, say so with a row above.",
         S "pulse runs { start when depth over 5; last 10s }\nmotor pump { forward when runs }\n",
         S "pulse runs { start when depth over 5; last 10s }\nmotor pump { stop when depth faulty; forward when runs "
           "}\n"},
};

const fg_code_text *fg_finding_text(fg_finding_code code) { return code < FG_FINDING_CODES ? &texts[code] : NULL; }
