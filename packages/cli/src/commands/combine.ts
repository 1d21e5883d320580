// `combine`: frames of a comp.
import { existsSync, mkdirSync } from 'node:fs';
import { dirname, join } from 'node:path';
import { COMBINE, type Combine } from '@bramblemist/core/combine/combine';
import { withNewest } from '@bramblemist/core/combine/edit';
import { writeComp, type CompOutput } from '@bramblemist/core/io/node/comp';
import { NodeFeeds } from '@bramblemist/core/io/node/feeds';
import { sequence } from '@bramblemist/core/io/node/pictures';
import { UsageError } from '../failure';
import { progress } from '../progress';
import { loadDocument, parseFrames, parseThreads } from './bake';

export interface CombineArguments {
  out: string;
  renders?: string;
  render: string[];
  files?: string;
  frames?: string;
  exr: string;
  png: string;
  jpeg?: boolean;
  size: string;
  threads?: string;
  resume?: boolean;
  json?: boolean;
}

function outputOf({ exr, png, jpeg, size }: CombineArguments): CompOutput {
  if (exr !== 'half' && exr !== 'float') throw new UsageError(`--exr must be half or float, not “${exr}”.`);
  if (png !== '8' && png !== '16') throw new UsageError(`--png must be 8 or 16, not “${png}”.`);
  const scale = Number(size) / 100;
  if (!(scale > 0 && scale <= 4))
    throw new UsageError(`--size must be a percentage up to 400, not “${size}”.`);
  return { exr, png: png === '8' ? 8 : 16, jpeg: jpeg ?? false, scale };
}

/** The number that stands for the newest render of a comp's shot, which only a server knows. */
const NEWEST = 1e9;

/** Folders of renders that were named one by one, as NUMBER=FOLDER. */
function namedRenders(all: readonly string[]): ReadonlyMap<number, string> {
  return new Map(
    all.map((one) => {
      const match = /^(\d+|newest)=(.+)$/.exec(one);
      if (!match)
        throw new UsageError(
          `--render must be like 4=pictures/spill or newest=pictures/spill, not “${one}”.`,
        );
      return [match[1] === 'newest' ? NEWEST : Number(match[1]), match[2]] as const;
    }),
  );
}

/** With a number for the newest render. @throws where a layer needs it and nobody said which one it is */
function withKnownNewest(comp: Combine, named: ReadonlyMap<number, string>): Combine {
  const needs = comp.layers.find(({ on, feed }) => on && feed.kind === 'render' && feed.render === 0);
  if (needs && !named.has(NEWEST))
    throw new UsageError(
      `${needs.name} takes the newest render of its shot. Say where that is: --render newest=FOLDER`,
    );
  return withNewest(comp, NEWEST);
}

export async function combineCommand(path: string, args: CombineArguments): Promise<void> {
  const named = namedRenders(args.render);
  const comp = withKnownNewest(loadDocument(COMBINE, path), named);
  const output = outputOf(args);
  const { first, last } = args.frames === undefined ? comp.frame : parseFrames(args.frames);
  const all = Array.from({ length: last - first + 1 }, (_, n) => first + n);
  const feeds = new NodeFeeds({
    render: (id) => named.get(id) ?? (args.renders === undefined ? null : join(args.renders, String(id))),
    files: args.files ?? dirname(path),
    rate: comp.frame.rate,
  });
  feeds.know(comp.files);
  mkdirSync(args.out, { recursive: true });
  const there = new Set(
    args.resume && existsSync(args.out) ? sequence(args.out, 'png').map((f) => f.frame) : [],
  );
  const frames = all.filter((f) => !there.has(f));
  const show = progress(args.json ?? false);
  const start = performance.now();
  const told = new Set<string>();
  show.start(frames.length, {});
  try {
    await writeComp(comp, frames, args.out, feeds, output, parseThreads(args.threads), (done, made) => {
      const { frame, exr, png, notes } = made;
      const fresh = notes.filter((note) => !told.has(note));
      fresh.forEach((note) => told.add(note));
      show.frame(done, frames.length, { frame, exr, png, ...(fresh.length > 0 ? { notes: fresh } : {}) });
    });
  } catch (error) {
    throw new UsageError((error as Error).message);
  }

  const notes = [...told].map((note) => `\n  ${note}`).join('');
  show.end(
    { frames: frames.length, seconds: (performance.now() - start) / 1000, notes: [...told] },
    `${frames.length} frames in ${args.out}.${notes}`,
  );
}
