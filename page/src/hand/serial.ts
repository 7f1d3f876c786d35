// SPDX-License-Identifier: MIT
// A board on a serial port, where the browser has Web Serial. Its lines go to the module as they come.

interface Port {
  open(how: { baudRate: number }): Promise<void>;
  readonly readable: ReadableStream<Uint8Array<ArrayBuffer>>;
}

interface Serial {
  requestPort(): Promise<Port>;
}

function serial(): Serial | undefined {
  return (navigator as Navigator & { serial?: Serial }).serial;
}

export function canSerial(): boolean {
  return serial() !== undefined;
}

const BAUD = 9600; // as `fickle live` has it if nothing is said

/** Asks for a port and hears until it goes away. */
export async function listenTo(hear: (lines: string) => Promise<unknown>, tell: (text: string) => void): Promise<void> {
  let port: Port;
  try {
    port = await serial()!.requestPort();
    await port.open({ baudRate: BAUD });
  } catch (problem) {
    tell(`No board: ${problem instanceof Error ? problem.message : String(problem)}`);
    return;
  }
  tell("Listening to the board.");
  const reader = port.readable.pipeThrough(new TextDecoderStream()).getReader();
  for (;;) {
    const { value, done } = await reader.read();
    if (done) break;
    await hear(value);
  }
  tell("The board has gone.");
}
