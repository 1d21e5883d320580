// What the working views are lit by.
import { keySun, LOOK, skyOf, type Look } from '@bramblemist/core/look/look';
import { LEAST_LIGHT, workLight } from '@bramblemist/core/look/work-light';
import { luminanceOf } from '@bramblemist/core/math/luminance';

const look = (given: object): Look => LOOK.parse(given) as Look;
const light = ({ sun, sky }: ReturnType<typeof workLight>): number =>
  luminanceOf(...sun) + luminanceOf(...sky);

test('a bright look is shown in its own light', () => {
  const bright = look({});
  const { toSun, sun, sky } = workLight(bright);
  expect({ toSun, power: sun }).toEqual(keySun(bright));
  expect(sky).toEqual(skyOf(bright));
  expect(luminanceOf(...sun) + luminanceOf(...sky)).toBeGreaterThan(LEAST_LIGHT);
});

test('the light that is the brightest where the camera looks shines, from where it stands, in white', () => {
  const lights = [
    { id: 'sun', kind: 'sun', stops: -6 },
    { id: 'far', kind: 'point', position: [0, 21, 0], stops: 4 },
    { id: 'near', kind: 'spot', position: [2, 1, 0], stops: 3 },
    { id: 'off', kind: 'point', position: [0, 1, 0.1], stops: 9, on: false },
  ];
  const { toSun, sun } = workLight(look({ lights, camera: { target: [0, 1, 0] } }));
  expect(toSun).toEqual([1, 0, 0]);
  // 8 at a metre, seen from two
  const white = 2 * luminanceOf(...look({ lights }).lights[2].colour);
  for (const part of sun) expect(part).toBeCloseTo(white);
});

test('a look for the night is lifted, its colours kept; without any light it stays dark', () => {
  const night = { lights: [], sky: { stops: -8, colour: [0.4, 0.6, 1] } };
  const lit = workLight(look(night));
  expect(light(lit)).toBeCloseTo(LEAST_LIGHT);
  expect(lit.sky[0] / lit.sky[2]).toBeCloseTo(0.4);
  expect(light(workLight(look({ ...night, sky: { colour: [0, 0, 0] } })))).toBe(0);
});
