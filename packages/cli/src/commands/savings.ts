// `savings`: what could make a look's pictures cheaper, measured on a frame; and what a render costs.
import { join } from 'node:path';
import { writeWhole } from '@bramblemist/core/io/node/files';
import { costOfRender, measureSavings } from '@bramblemist/core/io/node/measure-render';
import { framingOf, lookAt } from '@bramblemist/core/look/look';
import { progress } from '../progress';
import { openWorld, type RenderWorld, type WorldArguments } from '../render-world';
import { parseThreads } from './bake';
import { lookFor } from './render';

export interface MeasureArguments extends WorldArguments {
  threads?: string;
  json?: boolean;
}

/** The frame in the middle of those that there are: it has more of the medium than the first. */
const middleOf = ({ files }: RenderWorld): RenderWorld['files'][number] =>
  files[Math.floor((files.length - 1) / 2)];

export async function savingsCommand(
  folder: string,
  args: MeasureArguments & { out: string },
): Promise<void> {
  const look = lookFor(args);
  const world = await openWorld(folder, look, args);
  const file = middleOf(world);
  const show = progress(args.json ?? false);
  const start = performance.now();
  const sheet = measureSavings(
    lookAt(look, file.frame),
    { volume: world.volumeOf(file), surroundings: world.around(file), threads: parseThreads(args.threads) },
    args.out,
    (done, total) => {
      if (done === 1) show.start(total, {});
      show.frame(done, total, { frame: file.frame });
    },
  );
  writeWhole(join(args.out, 'savings.json'), JSON.stringify({ frame: file.frame, look, ...sheet }));
  const count = sheet.savings.length;
  show.end(
    { frames: count, seconds: (performance.now() - start) / 1000 },
    [
      `Frame ${file.frame} takes ${sheet.seconds.toFixed(2)} s.`,
      ...sheet.savings.map(
        (s) =>
          `${s.name.padEnd(36)} ${s.seconds.toFixed(2).padStart(8)} s   difference ` +
          `${s.difference.toFixed(3)}`,
      ),
    ].join('\n'),
  );
}

/** What the render of a folder costs. */
export async function renderCostCommand(folder: string, args: MeasureArguments): Promise<void> {
  const look = lookFor(args);
  const world = await openWorld(folder, look, args);
  const file = middleOf(world);
  const { look: framed } = framingOf(lookAt(look, file.frame));
  const threads = parseThreads(args.threads);
  const one = costOfRender(framed, {
    volume: world.volumeOf(file),
    surroundings: world.around(file),
    threads,
  });
  const frames = world.files.length;
  const cost = {
    frames,
    seconds: one.seconds * frames,
    secondsPerFrame: one.seconds,
    bytes: one.bytes,
    diskBytes: one.diskBytes * frames,
  };
  if (args.json) return void console.log(JSON.stringify(cost));
  console.log(`${frames} frames, about ${one.seconds.toFixed(2)} s each`);
  console.log(
    'time    about ' +
      `${cost.seconds < 90 ? `${cost.seconds.toFixed(0)} s` : `${(cost.seconds / 60).toFixed(1)} min`}`,
  );
  console.log(`memory  ${(cost.bytes / 1e6).toFixed(0)} MB`);
  console.log(`disk    about ${(cost.diskBytes / 1e6).toFixed(0)} MB`);
}
