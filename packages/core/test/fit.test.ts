import { assetsFrom } from '@bramblemist/core/assets/imported';
import { stillMesh } from '@bramblemist/core/geometry/mesh';
import { boxOf, domainAround } from '@bramblemist/core/assets/fit';
import { parseRecipe } from '@bramblemist/core/recipe/recipe';
import { boxMesh } from './meshes';

const assets = assetsFrom(() => ({ kind: 'mesh', remarks: [], mesh: stillMesh(boxMesh(100, 50, 25)) }));

test('a domain holds what stands in it, with air around and more above; a floor that holds stays', () => {
  const recipe = parseRecipe({
    files: [{ id: 'f', name: 'a.obj', scale: 0.01 }],
    sources: [
      { id: 's', centre: [2, 1, 0], radius: 0.5 },
      { id: 'off', on: false, centre: [90, 0, 0] },
    ],
    obstacles: [
      { id: 'o', shape: 'mesh', file: 'f', centre: [-1, 0.5, 0], turn: [0, 90, 0] },
      { id: 'g', shape: 'ground' },
    ],
  });
  expect(
    boxOf(recipe.obstacles[0], recipe, assets)!
      .flat()
      .map((v) => Math.round(v * 100) / 100),
  ).toEqual([-1.25, 0, -1, -0.75, 1, 1]);
  expect(boxOf(recipe.obstacles[1], recipe, assets)).toBeNull();
  const domain = domainAround(recipe, assets)!; // 3.75 m wide: 0.75 m clear
  for (const [n, v] of [-2, 0, -1.75].entries()) expect(domain.corner[n]).toBeCloseTo(v, 2);
  for (const [n, v] of [5.25, 3, 3.5].entries()) expect(domain.size[n]).toBeCloseTo(v, 2);
});
test('nothing to fit to', () => {
  expect(domainAround(parseRecipe({}), assets)).toBeNull();
});
