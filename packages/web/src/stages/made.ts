// What has been made of the bake that is looked at: its renders and combines.
import type { CombineInfo, RenderInfo } from '@bramblemist/contracts/payloads';
import { canonicalText } from '@bramblemist/core/recipe/document';
import type { StageProps } from './context';

export const rendersOf = (props: Pick<StageProps, 'shot' | 'bake'>): RenderInfo[] =>
  props.shot.renders.filter((r) => r.bakeId === props.bake?.id);

/** The newest render that has this frame, preferring one with the present look. */
export function renderOf(props: StageProps, frame: number): { render: RenderInfo; current: boolean } | null {
  const look = canonicalText(props.documents.look);
  const all = rendersOf(props)
    .filter((r) => r.frames.includes(frame))
    .reverse();
  const current = all.find((r) => canonicalText(r.look) === look);
  if (current) return { render: current, current: true };
  return all[0] ? { render: all[0], current: false } : null;
}

export function combinesOf(props: StageProps): CombineInfo[] {
  const renders = rendersOf(props).map((r) => r.id);
  return props.shot.combines.filter((c) => renders.includes(c.renderId));
}

export function combineOf(props: StageProps, frame: number): CombineInfo | null {
  return combinesOf(props).findLast((c) => c.frames.includes(frame)) ?? null;
}
