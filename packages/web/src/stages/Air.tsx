// The page's section on the air: forces and currents, what fades and spreads, with the curves that tell what
// they will do.
import { FlaskConical, MoveUpRight } from 'lucide-react';
import type { ReactNode } from 'react';
import styled from 'styled-components';
import { settlingSpeed } from '@bramblemist/core/recipe/parts/settling';
import { formatValue } from '@bramblemist/core/recipe/units';
import { dissipationShare } from '@bramblemist/core/recipe/parts/dissipation';
import { gustySpeed } from '@bramblemist/core/recipe/parts/wind';
import { MEDIA, withMedium } from '@bramblemist/core/presets/media';
import { RECIPE } from '@bramblemist/core/recipe/recipe';
import { isResting } from '@bramblemist/core/recipe/resting';
import { partOf } from '@bramblemist/core/recipe/settings';
import { recipeAt } from '@bramblemist/core/recipe/keys';
import type { Recipe } from '@bramblemist/core/recipe/types';
import { changeRecipe } from '../data/bench';
import { AddMenu } from '../parts/AddMenu';
import { later } from '../parts/later';
import { Heading, Plain, Section } from '../parts/ui';
import { useWish } from '../seeing/use-seeing';
import { reveal, useOpened } from '../parts/reveal';
import { recipeNow, type AirKey, type Beside, type PageParts } from './page-parts';

const Course = later(() => import('../parts/Course'), 'Course');

/** Shows and hides the arrows of a force. */
function See({ name }: { name: string }): ReactNode {
  const shown = useWish((s) => s.arrows === name);
  return (
    <Plain aria-pressed={shown} onPress={() => useWish.setState({ arrows: shown ? null : name })}>
      <MoveUpRight size={13} /> {shown ? 'Hide its arrows' : 'Show its arrows'}
    </Plain>
  );
}

function Slice({ name }: { name: string }): ReactNode {
  const shown = useWish((s) => s.slice === name);
  return (
    <Plain aria-pressed={shown} onPress={() => useWish.setState({ slice: shown ? null : name })}>
      <MoveUpRight size={13} /> {shown ? 'Hide its slice' : 'Show a slice'}
    </Plain>
  );
}

/** What moves the air, and what happens to what it carries, as they stand on the page. */
const FORCES = [
  'gravity',
  'buoyancy',
  'settling',
  'wind',
  'drag',
  'turbulence',
  'edges',
  'vorticity',
] as const satisfies readonly AirKey[];
const REST = ['dissipation', 'diffusion', 'method'] as const;

const AlsoThere = styled.p`
  display: flex;
  flex-wrap: wrap;
  gap: 4px 6px;
  align-items: baseline;
  padding: 4px 0 0 16px;
  color: ${({ theme }) => theme.quiet};
`;

/** Half-lives shown over so many of them. */
const HALF_LIVES = 4;

export function Air({ recipe, parts }: { recipe: Recipe; parts: PageParts }): ReactNode {
  const { one, item, add } = parts;
  const { space, wind, drag, dissipation } = recipe;
  const opened = useOpened((s) => s.parts);
  const rests = (key: AirKey | 'method'): boolean => isResting(recipe, key) && !opened.has(key);
  const isSeen = (key: AirKey | 'method'): boolean => !rests(key);
  const resting = [...FORCES, ...REST].filter(rests);
  const secondsOf = (frame: number): number =>
    ((frame - space.firstFrame + 1) * space.timeScale) / space.frameRate;
  const gusts = wind.gust !== 0 && (
    <Course
      title="Speed of the wind"
      unit="m/s"
      x="frame"
      from={space.firstFrame}
      to={space.lastFrame}
      lines={[{ name: 'wind', at: (frame) => gustySpeed(recipeAt(recipe, frame).wind, secondsOf(frame)) }]}
    />
  );
  const longest = Math.max(dissipation.density, dissipation.temperature);
  const fades = longest > 0 && (
    <Course
      title="What is left"
      unit="%"
      x="s"
      from={0}
      to={HALF_LIVES * longest}
      lines={[
        ...(dissipation.density > 0 ? densityLeft(dissipation) : []),
        ...(dissipation.temperature > 0
          ? [
              {
                name: 'warmth',
                at: (s: number) =>
                  100 * dissipationShare(dissipation.temperature, s, { ...dissipation, bias: 0 }, 1),
              },
            ]
          : []),
      ]}
    />
  );
  const slows = drag.halfLife > 0 && (
    <Course
      title="Speed that is left"
      unit="%"
      x="s"
      from={0}
      to={HALF_LIVES * drag.halfLife}
      lines={[{ name: 'speed', at: (s) => 100 * 2 ** (-s / drag.halfLife) }]}
    />
  );
  const { settling, gravity } = recipe;
  const falls = settling.falls === 'grains' && (
    <p>
      Such grains fall at {formatValue(settlingSpeed(settling, gravity), 'm/s')} through still{' '}
      {settling.fluid}.
    </p>
  );
  const media = (
    <AddMenu
      label="Take the numbers of a medium"
      icon={<FlaskConical size={13} />}
      starters={MEDIA}
      onAdd={(m) => changeRecipe(`numbers of ${m.name.toLowerCase()}`, withMedium(recipeNow(), m.key))}
    >
      Numbers of a medium
    </AddMenu>
  );
  const beside: Readonly<Record<string, Beside>> = {
    buoyancy: { actions: [<See key="see" name="buoyancy" />, <span key="media">{media}</span>] },
    settling: { under: falls },
    wind: { under: gusts, actions: <See name="wind" /> },
    drag: { under: slows, actions: <See name="drag" /> },
    turbulence: { actions: [<See key="see" name="turbulence" />, <Slice key="slice" name="turbulence" />] },
    edges: { actions: <See name="edges" /> },
    vorticity: { actions: <See name="vorticity" /> },
    dissipation: { under: fades },
  };
  return (
    <Section>
      <Heading>Air {add('currents', 'a current')}</Heading>
      {FORCES.filter(isSeen).map((key) => one(key, beside[key]))}
      {recipe.currents.map((c, n) => item('currents', n, { actions: <See name={`currents/${c.id}`} /> }))}
      {REST.filter(isSeen).map((key) => one(key, beside[key]))}
      {resting.length > 0 && (
        <AlsoThere>
          Also there:{' '}
          {resting.map((key) => (
            <Plain key={key} onPress={() => reveal(key)}>
              {partOf(RECIPE.parts, key).title.toLowerCase()}
            </Plain>
          ))}
        </AlsoThere>
      )}
    </Section>
  );
}

/** What is left of density: alike everywhere, or of thick and thin parts apart. */
function densityLeft(dissipation: Recipe['dissipation']): { name: string; at: (s: number) => number }[] {
  const { density, bias, even } = dissipation;
  const left = (name: string, thickness: number): { name: string; at: (s: number) => number } => ({
    name,
    at: (s) => 100 * dissipationShare(density, s, dissipation, thickness),
  });
  return bias === 0 ? [left('density', 1)] : [left('thick', 4 * even), left('thin', even / 4)];
}
