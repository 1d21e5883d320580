// `channels`: a cache whose grids are called as another program wants them.
import { parseChannelNames } from '@bramblemist/core/cache/channel-names';
import { renameCache } from '@bramblemist/core/io/node/channels';
import { resolve } from 'node:path';
import { UsageError } from '../failure';
import { progress } from '../progress';
import { asUsage, open } from './tool';

export interface ChannelsArguments {
  out: string;
  names: string;
  json?: boolean;
}

export function channelsCommand(folder: string, args: ChannelsArguments): void {
  const source = open(folder);
  if (resolve(args.out) === resolve(folder))
    throw new UsageError('--out must be another folder: nothing is overwritten.');
  const show = progress(args.json ?? false);
  show.start(source.manifest.frames.length, {});
  const made = asUsage(() =>
    renameCache(source, parseChannelNames(args.names), args.out, (f, done, total) =>
      show.frame(done, total, { frame: f.frame, bytes: f.bytes }),
    ),
  );
  const called = made.channels.map((c) => `${c} as ${made.names![c as 'density']}`).join(', ');
  show.end({ frames: made.frames.length }, `${made.frames.length} frames in ${args.out}: ${called}.`);
}
