// The experiments of docs/physics.md at sizes that a test can wait for: every figure has to lie within its
// band.
import { EXPERIMENTS, isWithin } from './physics/all';

test.each(Object.keys(EXPERIMENTS))('%s', (key) => {
  const { figures } = EXPERIMENTS[key].run('quick', 1);
  expect(figures.length).toBeGreaterThan(0);
  for (const f of figures) {
    const { what, value, least = -Infinity, most = Infinity } = f;
    expect({ what, value, within: isWithin(f), least, most }).toEqual({
      what,
      value,
      within: true,
      least,
      most,
    });
  }
});
