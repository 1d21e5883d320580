// `combine`: the pictures of a folder over a plate.
import { basename, join } from 'node:path';
import { COMBINE, type Combine } from '@bramblemist/core/combine/combine';
import { combineFile, readLayer } from '@bramblemist/core/io/node/pictures';
import { UsageError } from '../failure';
import { progress } from '../progress';
import { pick } from '../render-world';
import { loadDocument } from './bake';

const stem = (file: string): string => basename(file).replace(/\.[^.]+$/, '');

export interface CombineArguments {
  out: string;
  plate?: string;
  settings?: string;
  frames?: string;
  json?: boolean;
}

/** Pictures of a folder over a plate (one still) to EXR and PNG. */
export async function combineCommand(folder: string, args: CombineArguments): Promise<void> {
  const settings: Combine = loadDocument(COMBINE, args.settings);
  const files = pick(folder, 'exr', args.frames);
  let plate = null;
  try {
    plate = args.plate ? await readLayer(args.plate) : null;
  } catch (error) {
    throw new UsageError((error as Error).message);
  }

  const show = progress(args.json ?? false);
  const start = performance.now();
  show.start(files.length, {});
  for (const [i, f] of files.entries()) {
    await combineFile(f.path, plate, join(args.out, stem(f.file)), settings);
    show.frame(i + 1, files.length, {
      frame: f.frame,
      exr: `${stem(f.file)}.exr`,
      png: `${stem(f.file)}.png`,
    });
  }

  show.end(
    { frames: files.length, seconds: (performance.now() - start) / 1000 },
    `${files.length} pictures in ${args.out}.`,
  );
}
