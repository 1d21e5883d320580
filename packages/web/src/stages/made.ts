// What has been made of the shot: renders of the bake that is looked at, and comps.
import type { CombineInfo } from '@bramblemist/contracts/payloads/comp';
import type { RenderInfo } from '@bramblemist/contracts/payloads/made';
import { rendersIn, type Combine } from '@bramblemist/core/combine/combine';
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

/** The newest render of a shot that has a picture; 0: there is none. */
export const newestRender = ({ renders }: StageProps['shot']): number =>
  renders.findLast(({ frames }) => frames.length > 0)?.id ?? 0;

/** Which frames of the renders in a comp there are, and whether more of them are being made. */
export function madeOf(comp: Combine, renders: readonly RenderInfo[]): { text: string; isGrowing: boolean } {
  const own = renders.filter(({ id }) => rendersIn(comp).includes(id));
  return {
    text: own.map(({ id, frames }) => `${id}:${frames.length}`).join(' '),
    isGrowing: own.some(({ job }) => job?.state === 'running' || job?.state === 'queued'),
  };
}

/** Comps that were written with a render of the bake that is looked at: those that its package holds. */
export function combinesOf(props: Pick<StageProps, 'shot' | 'bake'>): CombineInfo[] {
  const own = new Set(rendersOf(props).map(({ id }) => id));
  return props.shot.combines.filter(({ settings }) => rendersIn(settings).some((id) => own.has(id)));
}
