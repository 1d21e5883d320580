import { parseRecipe } from '@bramblemist/core/recipe/recipe';
import { isResting } from '@bramblemist/core/recipe/resting';

const still = { ...{ wind: { speed: 0, gust: 0 }, turbulence: { strength: 0 } } };

test('what does nothing as it stands rests: numbers at 0, choices at their first', () => {
  const recipe = parseRecipe({
    ...still,
    drag: { halfLife: 2 },
    vorticity: { strength: 0, large: 0.4 },
    settling: { falls: 'speed' },
  });
  expect(
    ['wind', 'turbulence', 'edges', 'drag', 'vorticity', 'settling', 'method', 'gravity'].filter((key) =>
      isResting(recipe, key),
    ),
  ).toEqual(['wind', 'turbulence', 'edges', 'method']);
});

test('what keys or a region make something of does not', () => {
  const keyed = parseRecipe({
    ...still,
    curves: [
      {
        id: 'c',
        path: 'wind/speed',
        keys: [
          { frame: 1, value: 0, ease: 'even' },
          { frame: 9, value: 2, ease: 'even' },
        ],
      },
    ],
    regions: [{ id: 'r', name: 'Pool' }],
    changes: [{ id: 'x', region: 'r', path: 'turbulence/strength', how: 'is', amount: 1 }],
  });
  expect(['wind', 'turbulence', 'edges'].filter((key) => isResting(keyed, key))).toEqual(['edges']);
});
