// What a frame of a comp is made of, brought together before it is made: which pictures of which feeds, with
// which passes, and tracks and tables. Where they come from is the door's affair.
import type { ColourTable } from '../files/cube/cube';
import type { Track } from '../files/track/track';
import { lettered } from './lettering';
import { combineAt, operationsOf, type Combine, type CompFile, type CompLayer } from './combine';
import { DEEP, type FeedPicture } from './feed-picture';
import { isInFrame } from './placing';
import { feedMoment, type FeedMoment, type FeedRange } from './timing';

/** What feeds a layer: a render by its number, or a file. */
export type Feed = { readonly render: number } | { readonly file: CompFile };

/** The door to what lies outside of the comp. */
export interface Feeds {
  /** Null where there is nothing. */
  range(feed: Feed): Promise<FeedRange | null>;
  /** @returns null where this frame is not there */
  picture(feed: Feed, frame: number, passes: readonly string[]): Promise<FeedPicture | null>;
  track(file: CompFile): Promise<Track>;
  table(file: CompFile): Promise<ColourTable>;
  /** Files of the fonts that text is written in; letters are taken from the first that has them. */
  fonts(): Promise<readonly ArrayBuffer[]>;
}

/** What of a layer is there at a frame. */
export interface Gathered {
  readonly picture: FeedPicture;
  /** The next picture, and how far it is on the way there, where it is between two. */
  readonly next: FeedPicture | null;
  readonly part: number;
  /** Frames of its own that it goes on with each frame of the comp. */
  readonly pace: number;
}

/** All that a frame is made of. */
export interface Ingredients {
  readonly frame: number;
  /** As it is at the frame. */
  readonly comp: Combine;
  readonly layers: ReadonlyMap<string, Gathered>;
  readonly tracks: ReadonlyMap<string, Track>;
  readonly tables: ReadonlyMap<string, ColourTable>;
  /** What could not be had, in words: frames that are missing, feeds that are not chosen. */
  readonly notes: readonly string[];
}

/** What a layer is fed by from outside; null for what the comp makes itself, or where nothing is chosen. */
export function feedOf(comp: Combine, { feed }: CompLayer): Feed | null {
  if (feed.kind === 'render') return feed.render > 0 ? { render: feed.render } : null;
  if (feed.kind !== 'file') return null;
  const file = comp.files.find(({ id }) => id === feed.file);
  return file ? { file } : null;
}

/** A light's pass as files call it. */
export const lightPass = (light: string): string => `lights.${light}`;

/** Passes that a layer's picture must bring along, and those that are taken where there are any. */
export function passesWanted(
  comp: Combine,
  layer: CompLayer,
): { readonly needed: string[]; readonly welcome: string[] } {
  const wanted = new Set<string>();
  if (layer.feed.pass !== '') wanted.add(layer.feed.pass);
  if (layer.time.between === 'motion') wanted.add('motion');
  for (const operation of operationsOf(comp, layer.id)) {
    if (operation.kind === 'relight') wanted.add(lightPass(operation.light));
    if (operation.kind === 'motion') wanted.add('motion');
    if (operation.kind === 'fog' && operation.depthOf === '') wanted.add('depth');
  }

  for (const { kind, depthOf, on } of comp.operations)
    if (on && kind === 'fog' && depthOf === layer.id) wanted.add('depth');
  for (const mask of comp.masks)
    if (mask.on && mask.kind === 'taken' && mask.from === layer.id && mask.pass !== '') wanted.add(mask.pass);
  const above = comp.layers.slice(
    0,
    comp.layers.findIndex(({ id }) => id === layer.id),
  );
  const isMerged = layer.meet === 'depth' || above.some(({ on, meet }) => on && meet === 'depth');
  const welcome = [...(isMerged ? ['depth'] : []), ...(layer.meet === 'depth' ? [DEEP] : [])];
  return { needed: [...wanted], welcome: welcome.filter((name) => !wanted.has(name)) };
}

/** Layers that are seen, or that another one that is seen needs: as its feed, its depth or its mask. */
export function layersWanted(comp: Combine): CompLayer[] {
  const wanted = new Set<string>();
  const want = (id: string): void => {
    const layer = comp.layers.find((l) => l.id === id);
    if (!layer || wanted.has(id)) return;
    wanted.add(id);
    if (layer.feed.kind === 'layer') want(layer.feed.layer);
    const operations = operationsOf(comp, id);
    for (const { kind, depthOf } of operations) if (kind === 'fog' && depthOf !== '') want(depthOf);
    for (const mask of [layer.mask, ...operations.map((o) => o.mask)]) wantMask(mask);
  };

  const wantMask = (id: string): void => {
    const mask = comp.masks.find((m) => m.id === id);
    if (!mask?.on) return;
    if (mask.kind === 'taken') want(mask.from);
    if (mask.with !== '') wantMask(mask.with);
  };

  for (const { id, on } of comp.layers) if (on) want(id);
  return comp.layers.filter(({ id }) => wanted.has(id));
}

/**
 * Brings together what a frame of a comp is made of. @throws where a feed cannot be read, or a frame that
 * must be there is not
 */
export async function gather(comp: Combine, frame: number, feeds: Feeds): Promise<Ingredients> {
  const now = combineAt(comp, frame);
  const notes: string[] = [];
  const wanted = layersWanted(now);
  const found = await Promise.all(
    wanted.map(async (layer) => [layer.id, await gathered(comp, now, layer, frame, feeds, notes)] as const),
  );
  const used = filesUsed(now);
  const tracks = await Promise.all(used.tracks.map(async (f) => [f.id, await feeds.track(f)] as const));
  const tables = await Promise.all(used.tables.map(async (f) => [f.id, await feeds.table(f)] as const));
  const byFile = new Map(tracks);
  for (const [id, one] of found) {
    const layer = wanted.find((l) => l.id === id)!;
    const track = byFile.get(layer.bind.file) ?? null;
    if (one && layer.place.edges === 'nothing' && !isInFrame(now, layer, one.picture, track, frame))
      notes.push(`${layer.name} lies outside of the frame.`);
  }

  return {
    frame,
    comp: now,
    layers: new Map(found.flatMap(([id, one]) => (one ? [[id, one] as const] : []))),
    tracks: new Map(tracks),
    tables: new Map(tables),
    notes,
  };
}

async function gathered(
  comp: Combine,
  now: Combine,
  layer: CompLayer,
  frame: number,
  feeds: Feeds,
  notes: string[],
): Promise<Gathered | null> {
  if (layer.feed.kind === 'text') {
    const picture = lettered(await feeds.fonts(), now, layer, frame);
    return picture && { picture, next: null, part: 0, pace: 1 };
  }

  const feed = feedOf(now, layer);
  if (!feed) {
    if (layer.feed.kind === 'render' || layer.feed.kind === 'file')
      notes.push(
        layer.feed.kind === 'render'
          ? `${layer.name}: there is no render of this shot yet.`
          : `${layer.name} is fed by nothing yet.`,
      );
    return null;
  }

  const range = await feeds.range(feed);
  if (!range) {
    notes.push(`${layer.name}: what it is fed by is not there.`);
    return null;
  }

  const moment = feedMoment(comp, layer, range, frame);
  if (!moment) return null;
  const { needed, welcome } = passesWanted(now, layer);
  const passes = [...needed, ...welcome];
  const picture = await pictureAt(layer, feed, range, moment.frame, passes, feeds, notes);
  if (!picture) return null;
  const next = moment.part > 0 ? await feeds.picture(feed, moment.next, passes) : null;
  for (const pass of needed)
    if (!picture.passes.has(pass)) notes.push(`${layer.name}: its pictures have no pass called ${pass}.`);
  if (layer.meet === 'depth' && !picture.deep && !picture.passes.has('depth'))
    notes.push(`${layer.name}: its pictures do not say how far away things are, so it lies behind all.`);
  const pace = (layer.time.speed / 100) * (range.rate / now.frame.rate);
  return { picture, next, part: next ? moment.part : 0, pace };
}

/** The frame, or what stands for one that is missing. */
async function pictureAt(
  { name, time }: CompLayer,
  feed: Feed,
  range: FeedRange,
  frame: FeedMoment['frame'],
  passes: readonly string[],
  feeds: Feeds,
  notes: string[],
): Promise<FeedPicture | null> {
  const picture = await feeds.picture(feed, frame, passes);
  if (picture) return picture;
  if (time.gaps === 'stop') throw new Error(`${name}: its frame ${frame} is missing.`);
  if (time.gaps === 'gone') {
    notes.push(`${name}: its frame ${frame} is missing.`);
    return null;
  }

  for (let before = frame - 1; before >= range.first; before--) {
    const held = await feeds.picture(feed, before, passes);
    if (!held) continue;
    notes.push(`${name}: its frame ${frame} is missing; ${before} is held.`);
    return held;
  }

  notes.push(`${name}: its frame ${frame} is missing, and none is before it.`);
  return null;
}

/** Tracks and tables that a comp needs. */
export function filesUsed(comp: Combine): { readonly tracks: CompFile[]; readonly tables: CompFile[] } {
  const ids = new Set<string>();
  for (const { bind } of [...comp.layers, ...comp.masks]) if (bind.how !== 'free') ids.add(bind.file);
  for (const operation of comp.operations)
    if (operation.on && operation.kind === 'table') ids.add(operation.table);
  if (comp.frame.display === 'table') ids.add(comp.frame.table);
  const used = comp.files.filter(({ id }) => ids.has(id));
  return {
    tracks: used.filter(({ kind }) => kind === 'track'),
    tables: used.filter(({ kind }) => kind === 'table'),
  };
}
