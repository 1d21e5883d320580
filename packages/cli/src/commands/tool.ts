// Work on caches: tools in a row, and checking what is on disk.
import { isPackage, verifyPackage } from '@bramblemist/core/io/node/package';
import { isNumber, type Setting } from '@bramblemist/core/recipe/settings';
import { join } from 'node:path';
import { openCache, verifyCache, type OpenCache } from '@bramblemist/core/io/node/cache';
import { DiskFullError, readJson } from '@bramblemist/core/io/node/files';
import { runSteps, surroundings } from '@bramblemist/core/io/node/tool';
import { newStep, parseStep, TOOLS, type ToolStep } from '@bramblemist/core/volume/tools/tools';
import { setAt } from '@bramblemist/core/recipe/paths';
import { DocumentError } from '@bramblemist/core/recipe/document';
import type { CachedFrame } from '@bramblemist/core/cache/manifest';
import { UsageError } from '../failure';
import { progress, type Progress } from '../progress';
import { filesFor, lookFor, parseFrames } from './bake';

export function open(folder: string): OpenCache {
  try {
    return openCache(folder);
  } catch (error) {
    throw new UsageError((error as Error).message);
  }
}

/**
 * `amount=60`, `least.0=-1`, `channel=density`: what settings are given as on a command line, over those of
 * `base`.
 */
export function parseSettings(words: readonly string[], base: object): Record<string, unknown> {
  return words.reduce<unknown>((all, word) => {
    const match = /^([A-Za-z]\w*(?:\.\w+)*)=(.*)$/.exec(word);
    if (!match) throw new UsageError(`“${word}” is not like setting=value.`);
    const [, path, text] = match;
    const value = plainValue(text);
    return setAt(all, path, value);
  }, base) as Record<string, unknown>;
}

/** Runs what may be at fault by what was typed. */
export function asUsage<T>(make: () => T): T {
  try {
    return make();
  } catch (error) {
    if (error instanceof DocumentError)
      throw new UsageError(error.faults.map((f) => `${f.path} ${f.message}.`).join('\n'));
    if (error instanceof DiskFullError) throw error;
    throw new UsageError((error as Error).message);
  }
}

function stepsOf(given: readonly string[], file: string | undefined): ToolStep[] {
  const fromFile = file === undefined ? [] : readJson(file);
  if (!Array.isArray(fromFile))
    throw new UsageError(`${file}: must be a list of { "tool": …, "settings": … }.`);
  const steps = [
    ...fromFile.map((s: unknown) => {
      const { tool, settings } = (s ?? {}) as { tool?: unknown; settings?: unknown };
      return parseStep(String(tool), settings ?? {});
    }),
    ...given.map((text) => {
      const [tool, ...words] = text.trim().split(/\s+/);
      return parseStep(tool, parseSettings(words, newStep(tool).settings));
    }),
  ];
  if (steps.length === 0)
    throw new UsageError(
      'Say what to do with --step, such as --step "smooth radius=0.05". ' +
        `${TOOLS.map((t) => t.part.key).join(', ')}.`,
    );
  return steps;
}

/** What is said of every cache that is made of a cache. */
export interface MadeCacheArguments {
  out: string;
  frames?: string;
  look?: string;
  bricks?: boolean;
  json?: boolean;
}

export interface ToolArguments extends MadeCacheArguments {
  step: string[];
  steps?: string;
  files?: string;
  caches?: string;
}

/** What a frame of a cache reports as it is written. */
export const tell =
  (show: Progress) =>
  (f: CachedFrame, done: number, total: number): void =>
    show.frame(done, total, { ...f });

/** Where such a cache goes, which frames of it, and how it is told. */
export const writing = (args: MadeCacheArguments, show: Progress) => ({
  folder: args.out,
  bricks: args.bricks ?? false,
  onFrame: tell(show),
  look: lookFor(args.look),
  frames: args.frames === undefined ? undefined : parseFrames(args.frames),
  onStart: ({ total, done }: { total: number; done: number }): void => show.start(total, { done }),
});

export async function toolCommand(folder: string, args: ToolArguments): Promise<void> {
  const source = open(folder);
  const steps = asUsage(() => stepsOf(args.step, args.steps));
  const { recipe } = source.manifest;
  const assets = steps.some((s) => s.tool === 'mask')
    ? await filesFor(recipe, join(folder, 'manifest.json'), args.files)
    : undefined;
  const around = surroundings(
    recipe,
    assets,
    args.caches === undefined ? undefined : (name) => inside(args.caches!, name),
  );
  const show = progress(args.json ?? false);
  const start = performance.now();
  const made = asUsage(() => runSteps(source, steps, around, writing(args, show)));
  const seconds = (performance.now() - start) / 1000;
  show.end(
    { frames: made.frames.length, seconds },
    `${made.frames.length} frames in ${args.out}, ${seconds.toFixed(1)} s.`,
  );
}

/** A cache of a folder of caches by its plain name: nothing else is read. */
function inside(caches: string, name: string): string {
  if (!/^[\w-]+$/.test(name)) throw new UsageError(`“${name}” is not the name of a cache in ${caches}.`);
  return join(caches, name);
}

/** The tools with their settings, as a text. */
export function listTools(): string {
  return TOOLS.map(({ part }) =>
    [
      `${part.key}: ${part.title}`,
      ...part.settings.map((s) => {
        const kind = whatFits(s);
        return `  ${s.path} (${kind}; ${JSON.stringify(s.default)}): ${s.doc}`;
      }),
    ].join('\n'),
  ).join('\n');
}

export function verifyCommand(path: string, args: { json?: boolean }): void {
  const show = progress(args.json ?? false);
  let first = true;
  const onFile = (done: number, total: number, damage: object | null): void => {
    if (first) show.start(total, {});
    first = false;
    show.frame(done, total, damage ? { damage } : {});
  };

  const isWhole = isPackage(path);
  const damages = asUsage((): readonly { file: string; what: string }[] =>
    isWhole ? verifyPackage(path, onFile) : verifyCache(path, onFile),
  );
  const what = isWhole ? 'files' : 'frames';
  show.end({ damages }, damages.length === 0 ? `All ${what} of ${path} are as they were written.` : '');
  if (damages.length > 0) throw new Error(damages.map((d) => `${d.file}: ${d.what}.`).join('\n'));
}

/** What a word of the command line stands for: a flag, a number or a text. */
function plainValue(text: string): boolean | number | string {
  if (text === 'true' || text === 'false') return text === 'true';
  return text.trim() !== '' && !Number.isNaN(Number(text)) ? Number(text) : text;
}

/** The values that a setting takes, in a few words. */
function whatFits(s: Setting): string {
  if (s.kind === 'choice') return s.options.map((o) => o.value).join('|');
  return isNumber(s) ? `${s.least} to ${s.most}${s.unit ? ` ${s.unit}` : ''}` : s.kind;
}
