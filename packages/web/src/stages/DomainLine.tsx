// What the domain takes, told while it is changed, and a press that fits it to what stands in it.
import { useMemo, type ReactNode } from 'react';
import styled from 'styled-components';
import { domainAround } from '@bramblemist/core/assets/fit';
import { costOf } from '@bramblemist/core/analysis/cost';
import { keptChannels } from '@bramblemist/core/recipe/kept';
import type { Recipe } from '@bramblemist/core/recipe/types';
import { integer } from '@bramblemist/core/recipe/settings';
import { useShallow } from 'zustand/react/shallow';
import { change, changeRecipe } from '../data/bench';
import { useAssets } from '../data/files';
import { useLive } from '../live/use-live';
import { NumberControl } from '../parts/NumberControl';
import { bytes, Plain } from '../parts/ui';

const Line = styled.p`
  display: flex;
  flex-wrap: wrap;
  gap: 2px 12px;
  justify-content: space-between;
  padding: 0 0 6px 16px;
  font-size: 12px;
  color: ${({ theme }) => theme.quiet};
  button {
    font-size: 12px;
  }
`;

const LONGEST = integer(
  'longest',
  'voxels along the longest side',
  '',
  [4, 4000],
  64,
  'Sets the voxel size so that so many lie along the longest side.',
);
/** Frames of the live run that its pace is taken from. */
const PACED_BY = 24;

/** Bytes of a frame without packing, for each voxel of the domain. */
function bytesAVoxel({ keep, settling }: Recipe): number {
  const values =
    1 +
    Number(keep.temperature) +
    3 * Number(keep.velocity) +
    3 * Number(keep.colour) +
    Number(keep.age) +
    Number(keptChannels({ keep, settling }).includes('deposit')) +
    3 * Number(keep.coordinates);
  return values * (keep.precision === 'half' ? 2 : 4);
}

/**
 * How long the shot takes at this size, from the pace of the live run: as many more voxels, and substeps as
 * voxels are smaller.
 */
function useSeconds(recipe: Recipe, voxels: number): number | null {
  const live = useLive(useShallow((s) => ({ readings: s.readings, voxels: s.voxels })));
  const paced = [...live.readings.values()].slice(-PACED_BY);
  if (paced.length < 4 || live.voxels === 0) return null;
  const ms = paced.reduce((sum, r) => sum + r.ms, 0) / paced.length;
  const more = voxels / live.voxels;
  return (
    (ms / 1000) * more * Math.max(1, Math.cbrt(more)) * (recipe.space.lastFrame - recipe.space.firstFrame + 1)
  );
}

function roughly(seconds: number): string {
  if (seconds < 90) return `${Number(seconds.toPrecision(1))} s`;
  return seconds < 5400 ? `${Math.round(seconds / 60)} min` : `${(seconds / 3600).toFixed(1)} h`;
}

export function DomainLine({ recipe }: { recipe: Recipe }): ReactNode {
  const assets = useAssets(recipe);
  const { space } = recipe;
  const longest = Math.max(...space.size);
  const cost = useMemo(() => {
    try {
      return costOf(recipe, recipe.space.voxelSize, 2, assets);
    } catch (error) {
      return (error as Error).message;
    }
  }, [recipe, assets]);
  const seconds = useSeconds(recipe, typeof cost === 'string' ? 0 : cost.voxels);
  const domain = useMemo(() => {
    try {
      return domainAround(recipe, assets);
    } catch {
      return null; // a mesh that is not here yet
    }
  }, [recipe, assets]);
  return (
    <Line>
      <span>
        <NumberControl
          setting={LONGEST}
          name="Voxels along the longest side"
          value={Math.round(longest / space.voxelSize)}
          frameRate={space.frameRate}
          onChange={(n) =>
            change('voxel size', 'recipe', 'space.voxelSize', Number((longest / n).toPrecision(4)))
          }
        />{' '}
        along the longest side:{' '}
        {typeof cost === 'string'
          ? cost
          : `${(cost.voxels / 1e6).toFixed(2)} million voxels, ` +
            (space.medium === 'finer'
              ? `${(cost.mediumVoxels / 1e6).toFixed(1)} million of the medium, `
              : '') +
            `${bytes(cost.bytes)} of memory, at most ` +
            `${bytes(cost.mediumVoxels * bytesAVoxel(recipe))} of disk a frame` +
            (seconds === null ? '' : `, about ${roughly(seconds)} for the shot at the pace of the live run`)}
      </span>
      <Plain
        isDisabled={domain === null}
        onPress={() =>
          domain && changeRecipe('fit the domain', { ...recipe, space: { ...recipe.space, ...domain } })
        }
      >
        fit to what is in it
      </Plain>
    </Line>
  );
}
