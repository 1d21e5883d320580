// What the room takes, told while it is changed, and a press that fits it to what stands in it.
import { useMemo, type ReactNode } from 'react';
import styled from 'styled-components';
import { roomAround } from '@bramblemist/core/geometry/fit';
import { costOf } from '@bramblemist/core/readings/cost';
import type { Recipe } from '@bramblemist/core/recipe/recipe';
import { changeRecipe } from '../data/bench';
import { useAssets } from '../data/files';
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

export function RoomLine({ recipe }: { recipe: Recipe }): ReactNode {
  const assets = useAssets(recipe);
  const cost = useMemo(() => {
    try {
      const { voxels, bytes: memory } = costOf(recipe, recipe.space.voxelSize, 2, assets);
      return `${(voxels / 1e6).toFixed(2)} million voxels, ${bytes(memory)} of memory`;
    } catch (error) {
      return (error as Error).message;
    }
  }, [recipe, assets]);
  const room = useMemo(() => {
    try {
      return roomAround(recipe, assets);
    } catch {
      return null; // a mesh that is not here yet
    }
  }, [recipe, assets]);
  return (
    <Line>
      <span>{cost}</span>
      <Plain
        isDisabled={room === null}
        onPress={() => room && changeRecipe('fit the room', { ...recipe, space: { ...recipe.space, ...room } })}
      >
        fit to what is in it
      </Plain>
    </Line>
  );
}
