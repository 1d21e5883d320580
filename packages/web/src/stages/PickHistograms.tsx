// How the particles of a file are spread by what they can be picked by, at the frame that is shown, and which
// are taken.
import { useMemo, type ReactNode } from 'react';
import { Bar, BarChart, Cell, ResponsiveContainer, YAxis } from 'recharts';
import styled, { useTheme } from 'styled-components';
import type { Assets } from '@bramblemist/core/assets/assets';
import {
  BOUNDS,
  bounded,
  histogramOf,
  measureOf,
  filterParticles,
  PICKED_BY,
  type Histogram,
  type PickedBy,
} from '@bramblemist/core/assets/filter-particles';
import type { ParticlesPart, Recipe } from '@bramblemist/core/recipe/types';
import { formatValue } from '@bramblemist/core/recipe/units';
import { resolveParticles } from '@bramblemist/core/assets/resolve';
import { useCalmFrame } from '../data/playhead';
import { Quiet } from '../parts/ui';

const Charts = styled.div`
  display: grid;
  grid-template-columns: 1fr 1fr;
  gap: 4px 14px;
  margin: 4px 0 8px;
  figure {
    margin: 0;
  }
  figcaption {
    color: ${({ theme }) => theme.quiet};
    font-size: 12px;
  }
`;
const UNITS = { speed: 'm/s', height: 'm', crowding: '', age: 's' } as const;
/** Counting neighbours of more than so many takes too long while one plays. */
const MOST_CROWDED = 60_000;

interface Spread {
  readonly by: PickedBy;
  readonly histogram: Histogram;
}

function spreads(
  recipe: Recipe,
  part: ParticlesPart,
  assets: Assets,
  frame: number,
): { all: number; taken: number; spreads: Spread[] } {
  const { space } = recipe;
  const frameS = space.timeScale / space.frameRate;
  const timeS = (frame - space.firstFrame + 1) * frameS;
  const flown = resolveParticles(part, recipe, assets).at(timeS, timeS - frameS);
  const many = flown.count > MOST_CROWDED;
  const out = PICKED_BY.flatMap((by): Spread[] => {
    if (by === 'crowding' && many) return [];
    const values = measureOf(flown, by, part.pick.near, frameS);
    const histogram = values && histogramOf(values);
    return histogram ? [{ by, histogram }] : [];
  });
  const own = many ? { ...part, pick: { ...part.pick, fewest: 0, most: 100000 } } : part;
  return { all: flown.count, taken: filterParticles(flown, own, frameS).count, spreads: out };
}

export function PickHistograms({
  recipe,
  part,
  assets,
}: {
  recipe: Recipe;
  part: ParticlesPart;
  assets: Assets;
}): ReactNode {
  const theme = useTheme();
  const frame = useCalmFrame();
  const found = useMemo(() => {
    try {
      return spreads(recipe, part, assets, frame);
    } catch (error) {
      return (error as Error).message;
    }
  }, [recipe, part, assets, frame]);
  if (typeof found === 'string') return <Quiet>{found}</Quiet>;
  return (
    <>
      <Quiet>
        {found.taken.toLocaleString('en')} of {found.all.toLocaleString('en')} are taken at frame {frame}
      </Quiet>
      <Charts>
        {found.spreads.map(({ by, histogram: { from, to, counts } }) => {
          const { low, high } = BOUNDS[by];
          const width = (to - from || 1) / counts.length;
          const data = counts.map((count, n) => ({
            count: Math.sqrt(count),
            middle: from + (n + 0.5) * width,
          }));
          const inside = (m: number): boolean =>
            !bounded(part.pick, by) || (m + width / 2 >= part.pick[low] && m - width / 2 <= part.pick[high]);
          const says =
            `${by} ${formatValue(Number(from.toPrecision(2)), UNITS[by])} to ` +
            `${formatValue(Number(to.toPrecision(2)), UNITS[by])}`;
          return (
            <figure key={by} aria-label={`Particles by ${by}`}>
              <ResponsiveContainer width="100%" height={34}>
                <BarChart data={data} barCategoryGap={1} margin={{ top: 2, right: 0, bottom: 0, left: 0 }}>
                  <YAxis hide domain={[0, 'dataMax']} />
                  <Bar dataKey="count" isAnimationActive={false} minPointSize={0}>
                    {data.map((d, n) => (
                      <Cell key={n} fill={inside(d.middle) ? theme.lichen : theme.line} />
                    ))}
                  </Bar>
                </BarChart>
              </ResponsiveContainer>
              <figcaption>{says}</figcaption>
            </figure>
          );
        })}
      </Charts>
    </>
  );
}
