// `npm run sensitivities`: turns each knob of several shots up and down in small runs, and writes how the
// measures answer.
import { writeFileSync } from 'node:fs';
import { availableParallelism } from 'node:os';
import { LOOK, type Look } from '@bramblemist/core/look/look';
import { opacityOf, trialFrames } from '@bramblemist/core/io/node/trial';
import { KNOBS, MEASURE_NAMES, turned } from '@bramblemist/core/analysis/knobs';
import {
  type Sensitivity,
  frontOf,
  measure,
  MEASURES,
  type MeasureName,
  type Measures,
  type Opacity,
} from '@bramblemist/core/analysis/measures';
import { example } from '@bramblemist/core/presets/examples';
import type { Recipe } from '@bramblemist/core/recipe/types';
import { cameraFor, startFrom, STARTING_POINTS } from '@bramblemist/core/presets/starting-points';

const LONGEST = 36;
const WIDTH = 144;
const LAST = 60;
/** Pictures from this frame on are measured, this far apart. */
const FROM = 18;
const EVERY = 6;
const FACTOR = 2;

/** Measures of a run: the mean over its pictures, and its front over the early ones. */
function measured(recipe: Recipe, look: Look): Record<MeasureName, number> {
  const pictures: Opacity[] = [];
  const last = Math.min(recipe.space.lastFrame, recipe.space.firstFrame + LAST - 1);
  const voxelSizeM = Math.max(recipe.space.voxelSize, Math.max(...recipe.space.size) / LONGEST);
  const pictured = (f: number): boolean =>
    f - recipe.space.firstFrame >= FROM && (f - recipe.space.firstFrame) % EVERY === 0;
  for (const { sight } of trialFrames(recipe, look, { voxelSizeM, last, width: WIDTH, threads: 1, pictured }))
    if (sight) pictures.push(opacityOf(sight));
  const all: Measures[] = pictures.map((p) => measure(p));
  const mean = (name: Exclude<MeasureName, 'front'>): number =>
    all.reduce((s, m) => s + m[name], 0) / all.length;
  return {
    coverage: mean('coverage'),
    opacity: mean('opacity'),
    softness: mean('softness'),
    lump: mean('lump'),
    front: frontOf(pictures.slice(0, 5), (EVERY * recipe.space.timeScale) / recipe.space.frameRate) ?? 0,
  };
}

const shots: { name: string; recipe: Recipe; look: Look }[] = [
  ...STARTING_POINTS.map(({ key, name }) => {
    const { recipe, look } = startFrom(key)!;
    return { name, recipe, look };
  }),
  ...['weir-at-dawn', 'ice-cellar'].map((key) => {
    const recipe = example(key);
    return { name: recipe.name, recipe, look: LOOK.parse({ camera: cameraFor(recipe) }) };
  }),
].filter(({ recipe }) => recipe.files.length === 0);

const answers = new Map<string, { shot: string; of: Partial<Record<MeasureName, number>> }[]>();
const started = performance.now();
for (const { name, recipe, look } of shots) {
  for (const knob of KNOBS) {
    const up = turned(knob, recipe, look, FACTOR);
    const down = turned(knob, recipe, look, 1 / FACTOR);
    if (!up || !down) continue;
    const [a, b] = [up, down].map((t) => measured(t.recipe, t.look));
    const of: Partial<Record<MeasureName, number>> = {};
    for (const m of MEASURE_NAMES) if (a[m] > 1e-4 && b[m] > 1e-4) of[m] = Math.log2(a[m] / b[m]) / 2;
    answers.set(knob.key, [...(answers.get(knob.key) ?? []), { shot: name, of }]);
  }

  console.log(`${name}: ${((performance.now() - started) / 1000).toFixed(0)} s`);
}

const table: Partial<Record<MeasureName, Record<string, Sensitivity>>> = {};
for (const m of MEASURE_NAMES)
  for (const { key } of KNOBS) {
    const values = (answers.get(key) ?? []).flatMap(({ of }) => (of[m] === undefined ? [] : [of[m]]));
    if (values.length < 2) continue;
    const mean = values.reduce((s, v) => s + v, 0) / values.length;
    const spread = Math.sqrt(values.reduce((s, v) => s + (v - mean) ** 2, 0) / values.length);
    const round = (v: number): number => Number(v.toFixed(3));
    (table[m] ??= {})[key] = { mean: round(mean), spread: round(spread), shots: values.length };
  }

writeFileSync(
  'packages/core/src/analysis/sensitivities.ts',
  `// Made by \`npm run sensitivities\`; see docs/sensitivities.md.
import type { MeasureName, Sensitivity } from './measures';

export const SENSITIVITIES: Readonly<
  Partial<Record<MeasureName, Readonly<Record<string, Sensitivity>>>>
> = ${JSON.stringify(table, null, 2)};
`,
);
const cell = (s?: Sensitivity): string => (s ? `${s.mean.toFixed(2)} ± ${s.spread.toFixed(2)}` : '–');
writeFileSync(
  'docs/sensitivities.md',
  `# How what is seen answers to settings

Made by \`npm run sensitivities\` from small runs of ${shots.length} shots
(${shots.map((s) => s.name).join(', ')}):
${LONGEST} voxels along the longest edge, ${LAST} frames, every setting halved and doubled. A figure says
by how many doublings the measure changes for one doubling of the setting, mean and standard deviation
over the shots: 1 is in proportion, −1 inversely, 0 not at all. The match with a reference takes its
hints from this table; what the shots disagree on is trusted less.

| setting | ${MEASURE_NAMES.map((m) => MEASURES[m].label).join(' | ')} |
| --- | ${MEASURE_NAMES.map(() => '--- |').join(' ')}
${KNOBS.map((k) => `| ${k.label} | ${MEASURE_NAMES.map((m) => cell(table[m]?.[k.key])).join(' | ')} |`).join(
  '\n',
)}

The measures are told in the guide. The front is that of frames ${FROM} to ${FROM + 4 * EVERY}.
`,
);
console.log(
  `Written after ${((performance.now() - started) / 60000).toFixed(1)} min, one of ` +
    `${availableParallelism()} cores.`,
);
