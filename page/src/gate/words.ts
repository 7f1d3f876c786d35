// SPDX-License-Identifier: MIT
// The words of gate files. Made by scripts/make-editors.sh.
const set = (words: string): ReadonlySet<string> => new Set(words.split(" "));
export const statements = set("bands bar buzzer condition count display every flag gate hysteresis include lamp latch motor number promise pulse relay scene sensor sequence servo threshold trial");
export const conditions = set("and at ends faulty for if in is least most near no none not or otherwise outside over previously starts under unsure when within yes");
export const rows = set("add again always assume begins between bridge can changes circle clear drops expect first goes inverted jumps last lasts limit margin matches mean median never noise plays presses ramps range raw readings reads rest restarts seed set settle size stale start stays step stuck swings take trust unit while zero");
export const levels = set("amber back blank blue cyan deg fill follow forward green hold light magenta off on orange play quiet red show stop sweep tone white yellow");
