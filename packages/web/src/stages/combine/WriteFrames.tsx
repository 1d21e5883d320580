// The next step of Combine: writing all frames, as the page says how.
import type { ReactNode } from 'react';
import type { CompWritten } from '@bramblemist/contracts/payloads/comp';
import type { ShotInfo } from '@bramblemist/contracts/payloads/shot';
import type { Combine } from '@bramblemist/core/combine/combine';
import { shotStore } from '../../data/shot-store';
import { useStartCombine } from '../../data/queries/pictures';
import { NextStep } from '../../parts/NextStep';
import { Primary, Trouble } from '../../parts/ui';

/** How frames are written. */
export const useOutput = shotStore<CompWritten>(() => ({ exr: 'half', png: 8, jpeg: false, scale: 1 }), {
  returns: true,
});

export function WriteFrames({ shot, comp }: { shot: ShotInfo; comp: Combine }): ReactNode {
  const { first, last } = comp.frame;
  const output = useOutput();
  const start = useStartCombine(shot.id);
  return (
    <NextStep>
      <Primary
        isDisabled={!comp.layers.some(({ on }) => on) || start.isPending}
        onPress={() => start.mutate({ settings: comp, frames: { first, last }, output })}
      >
        Write {last === first ? `frame ${first}` : `frames ${first}–${last}`}
      </Primary>
      {start.error && <Trouble>{start.error.message}</Trouble>}
    </NextStep>
  );
}
