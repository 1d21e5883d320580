// What the run that is shown noticed, one entry a kind.
import { useMemo } from 'react';
import type { FrameInfo } from '@bramblemist/contracts/payloads/made';
import { firstOfEach } from '@bramblemist/core/measure/check-frame';
import type { Incident } from '@bramblemist/core/record/incident';
import type { Source } from '../app/there';
import { useLive } from '../live/use-live';

export function useNoticed(
  source: Source,
  frames: readonly FrameInfo[],
): { readonly first: Incident; readonly count: number }[] {
  const live = useLive((s) => s.incidents);
  return useMemo(
    () => firstOfEach(source === 'live' ? live : frames.flatMap((f) => f.incidents)),
    [source, live, frames],
  );
}
