// SPDX-License-Identifier: MIT
// What a buzzer would be heard like. Silent until somebody switches sound on.
import type { Now } from "../module/types";

export class Sound {
  private context: AudioContext | null = null;
  private tones = new Map<number, { tone: OscillatorNode; gain: GainNode }>();

  switch(on: boolean): void {
    if (on) this.context ??= new AudioContext();
    else void this.context?.close();
    if (on) return;
    this.context = null;
    this.tones.clear();
  }

  play(buzzer: number, now: Now): void {
    if (!this.context) return;
    let voice = this.tones.get(buzzer);
    if (!voice) {
      const tone = new OscillatorNode(this.context, { type: "square" }), gain = new GainNode(this.context, { gain: 0 });
      tone.connect(gain).connect(this.context.destination);
      tone.start();
      voice = { tone, gain };
      this.tones.set(buzzer, voice);
    }
    const on = now.form === "tone", at = this.context.currentTime;
    if (on) voice.tone.frequency.setValueAtTime(now.number ?? 440, at);
    voice.gain.gain.setTargetAtTime(on ? 0.06 * ((now.percent ?? 100) / 100) : 0, at, 0.01);
  }
}
