// What a shot’s bake can hand over, asked for anew whenever there is more of it.
import type { UseQueryResult } from '@tanstack/react-query';
import type { PackingInfo } from '@bramblemist/contracts/payloads/hand-over';
import { usePacking } from '../../data/queries/packages';
import type { StageProps } from '../context';
import { combinesOf, rendersOf } from '../made';

/** Says which pictures there are: another text, other pictures. */
export const picturesKey = (props: StageProps): string =>
  [...rendersOf(props), ...combinesOf(props)].map((m) => `${m.id}:${m.frames.length}`).join(' ');

export function useOwnPacking(props: StageProps): UseQueryResult<PackingInfo> {
  const { bake, shot } = props;
  const isThere = bake !== null && bake.frames.length > 0;
  return usePacking(
    isThere ? bake.id : null,
    `${bake?.frames.length} ${picturesKey(props)} ${shot.particleRuns.length}`,
  );
}
