// Progress of a long command: a bar on a terminal, a JSON line for each event otherwise.
import { Presets, SingleBar } from 'cli-progress';

export interface Progress {
  start(total: number, what: Record<string, unknown>): void;
  frame(done: number, total: number, what: Record<string, unknown>): void;
  end(what: Record<string, unknown>, sentence: string): void;
}

export function progress(json: boolean): Progress {
  if (json || !process.stdout.isTTY) {
    const line = (event: string, what: object): void =>
      void process.stdout.write(`${JSON.stringify({ event, ...what })}\n`);
    return {
      start: (total, what) => line('start', { total, ...what }),
      frame: (done, total, what) => line('frame', { done, total, ...what }),
      end: (what) => line('end', what),
    };
  }

  const bar = new SingleBar(
    { format: '{bar} {value}/{total} frames · {eta_formatted} left', hideCursor: true },
    Presets.shades_classic,
  );
  return {
    start: (total, what) => bar.start(total, Number(what.done ?? 0)),
    frame: (done) => bar.update(done),
    end: (_what, sentence) => {
      bar.stop();
      console.log(sentence);
    },
  };
}
