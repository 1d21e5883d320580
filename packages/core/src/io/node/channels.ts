// A cache under other names: its volumes copied with their grids called as another program wants them.
import { mkdirSync, readFileSync } from 'node:fs';
import { join } from 'node:path';
import { checkChannelNames, nameIn, type ChannelNames } from '../../cache/channel-names';
import type { CachedFrame, Manifest } from '../../cache/manifest';
import { renamedVdb } from '../../files/vdb/rename';
import { MANIFEST, type OpenCache } from './cache';
import { dropParts, sha256, writeWhole } from './files';

/** A volume of a cache, its grids called as `names` says. */
export const renamedVolume = (bytes: Uint8Array, names: ChannelNames): Uint8Array =>
  renamedVdb(bytes, (channel) => nameIn(names, channel));

/** What a manifest says of a cache whose grids were renamed. */
export function renamedManifest(manifest: Manifest, names: ChannelNames): Manifest {
  const channels = manifest.channels.filter((c) => nameIn(names, c) !== null);
  return { ...manifest, channels, names: Object.fromEntries(channels.map((c) => [c, nameIn(names, c)!])) };
}

/**
 * Frames are written whole and in order, the manifest after each; what is there already is written anew with
 * the same bits.
 * @throws CoreError where the names do not fit, or a volume cannot be read
 */
export function renameCache(
  source: OpenCache,
  names: ChannelNames,
  folder: string,
  onFrame: (frame: CachedFrame, done: number, total: number) => void,
): Manifest {
  const { manifest } = source;
  checkChannelNames(names, manifest.channels);
  mkdirSync(folder, { recursive: true });
  dropParts(folder);
  const frames: CachedFrame[] = [];
  const state = (): Manifest => ({
    ...renamedManifest(manifest, names),
    complete: manifest.complete && frames.length === manifest.frames.length,
    frames: [...frames],
  });
  for (const frame of manifest.frames) {
    const bytes = renamedVolume(readFileSync(join(source.folder, frame.file)), names);
    writeWhole(join(folder, frame.file), bytes);
    frames.push({ ...frame, bytes: bytes.length, sha256: sha256(bytes) });
    writeWhole(join(folder, MANIFEST), JSON.stringify(state(), null, 1));
    onFrame(frames[frames.length - 1], frames.length, manifest.frames.length);
  }

  return state();
}
