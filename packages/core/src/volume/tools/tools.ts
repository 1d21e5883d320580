// All tools, how a step of them is checked, and several applied in turn.
import { CoreError } from '../../base/error';
import { DocumentKind } from '../../recipe/document';
import { cachedFrames, type FrameSource } from '../frames';
import { CROP, MASK } from './crop';
import { SHARPEN, SMOOTH } from './filter';
import { LEVELS } from './levels';
import { MERGE } from './merge';
import { PACK } from './pack';
import { RESAMPLE } from './resample';
import { RETIME } from './retime';
import { TRIM } from './trim';
import type { Surroundings, Tool } from './tool';

export const TOOLS = [
  TRIM,
  RETIME,
  CROP,
  MASK,
  SMOOTH,
  SHARPEN,
  LEVELS,
  MERGE,
  RESAMPLE,
  PACK,
] as readonly Tool<never>[] as readonly Tool[];

/** One use of a tool, as it stands in a manifest's history. */
export interface ToolStep {
  readonly tool: string;
  readonly settings: Readonly<Record<string, unknown>>;
}

const kinds = new Map(
  TOOLS.map(({ part }) => [
    part.key,
    new DocumentKind<Record<string, unknown>>(`use of ${part.key}`, 1, [part]),
  ]),
);

const kindOf = (tool: string): DocumentKind<Record<string, unknown>> => {
  const kind = kinds.get(tool);
  if (!kind)
    throw new CoreError(
      'settings',
      `There is no tool called ${tool}. There are: ${[...kinds.keys()].join(', ')}.`,
    );
  return kind;
};

/** A use of a tool with everything at its default. */
export const newStep = (tool: string): ToolStep => ({ tool, settings: kindOf(tool).defaultPart(tool) });

/** @throws DocumentError naming each wrong place; settings that are left out get their defaults */
export function parseStep(tool: string, settings: unknown): ToolStep {
  return { tool, settings: kindOf(tool).parse({ [tool]: settings })[tool] as ToolStep['settings'] };
}

/** @throws Error where settings do not fit the frames */
export function applySteps(
  frames: FrameSource,
  steps: readonly ToolStep[],
  around: Surroundings,
): FrameSource {
  return steps.reduce((f, { tool, settings }) => {
    const { apply } = TOOLS.find((t) => t.part.key === tool)!;
    return cachedFrames(apply(f, settings, around));
  }, cachedFrames(frames));
}
