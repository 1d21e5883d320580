// What the experiments share: runs in few words, fields filled by formulas, and what an experiment reports.
import { writeField } from '../../src/grid/memory';
import { startThreadPool } from '@bramblemist/core/io/node/thread-pool';
import { parseRecipe } from '../../src/recipe/recipe';
import type { Recipe } from '@bramblemist/core/recipe/types';
import type { Triple } from '@bramblemist/core/math/vector';
import { compile } from '@bramblemist/core/plan/compile';
import type { ChannelField } from '@bramblemist/core/base/channels';
import { carryMedium } from '@bramblemist/core/step/carry';
import { Simulation, stateOf } from '@bramblemist/core/run/simulation';

export const ALL_WALLS = {
  floor: 'wall',
  top: 'wall',
  left: 'wall',
  right: 'wall',
  back: 'wall',
  front: 'wall',
};
export const ALL_OPEN = {
  floor: 'open',
  top: 'open',
  left: 'open',
  right: 'open',
  back: 'open',
  front: 'open',
};

/** A measured figure and the band it has to lie in; without a band it is only reported. */
export interface Figure {
  readonly what: string;
  readonly value: number;
  readonly least?: number;
  readonly most?: number;
}
export interface Chart {
  readonly file: string;
  readonly title: string;
  readonly x: string;
  readonly y: string;
  readonly log?: boolean;
  /** Drawn as a line, or as points where `points` is set (published values). */
  readonly curves: readonly {
    readonly name: string;
    readonly points?: boolean;
    readonly at: readonly (readonly [number, number])[];
  }[];
}
export interface Outcome {
  readonly figures: readonly Figure[];
  readonly charts?: readonly Chart[];
}
export interface Experiment {
  readonly name: string;
  /** What is done, against what, from which source. */
  readonly about: string;
  /** quick: sizes for the tests; full: sizes for the report. */
  readonly run: (size: 'quick' | 'full', threads: number) => Outcome;
}

/** A recipe without any force or fading, unless said otherwise. */
export function still(parts: Record<string, unknown>): Recipe {
  return parseRecipe({
    name: 'Experiment',
    buoyancy: { lift: 0, weight: 0 },
    dissipation: { density: 0, temperature: 0 },
    ...parts,
  });
}

export function start(recipe: Recipe, threads: number, voxelSizeM?: number): Simulation {
  const plan = compile(recipe, { voxelSizeM }).plan;
  return new Simulation(plan, startThreadPool(Simulation.pages(plan, threads), threads));
}

/** Fills a channel by a formula over the place of its sites, in metres. */
export function fill(
  s: Simulation,
  channel: ChannelField,
  value: (x: number, y: number, z: number) => number,
): void {
  const axis = channel.startsWith('velocity') ? 'XYZ'.indexOf(channel[8]) : 3;
  const { lattice: l, origin, voxelSizeM: h } = s.window;
  const extra = [0, 1, 2].map((a) => Number(a === axis)) as Triple;
  const [mx, my, mz] = [l.nx + extra[0], l.ny + extra[1], l.nz + extra[2]];
  const out = new Float32Array(mx * my * mz);
  const place = (i: number, a: number): number => (origin[a] + i + (a === axis ? 0 : 0.5)) * h;
  for (let k = 0; k < mz; k++)
    for (let j = 0; j < my; j++)
      for (let i = 0; i < mx; i++) out[(k * my + j) * mx + i] = value(place(i, 0), place(j, 1), place(k, 2));
  writeField(s.threadPool.memory, s.field(channel), out, extra);
}

/** Sets the air moving by a formula; the run then knows how fast it is. */
export function fillVelocity(
  s: Simulation,
  velocity: (x: number, y: number, z: number) => readonly number[],
): void {
  (['velocityX', 'velocityY', 'velocityZ'] as const).forEach((c, axis) => {
    let most = 0;
    fill(s, c, (x, y, z) => {
      const v = velocity(x, y, z)[axis];
      most = Math.max(most, Math.abs(v));
      return v;
    });
    stateOf(s).topSpeeds[axis] = most;
  });
}

/**
 * Keeps the air as it moves now: what it returns puts it back, before each frame of an experiment on
 * transport alone.
 */
export function held(s: Simulation): () => void {
  const faces = (['velocityX', 'velocityY', 'velocityZ'] as const).map((c) => ({ c, values: s.read(c) }));
  const speeds = [...stateOf(s).topSpeeds] as Triple;
  return () => {
    faces.forEach(({ c, values }, axis) =>
      writeField(s.threadPool.memory, s.field(c), values, [0, 1, 2].map((a) => Number(a === axis)) as Triple),
    );
    stateOf(s).topSpeeds = [...speeds];
  };
}

/** Carries the medium over a time by the air as it stands, and nothing else. */
export function carryOnly(s: Simulation, dtS: number): void {
  const state = stateOf(s);
  state.frame++;
  carryMedium(state, dtS);
}

export function sum(values: Float32Array): number {
  return values.reduce((a, b) => a + b, 0);
}

export function greatest(values: Float32Array): number {
  return values.reduce((m, v) => Math.max(m, Math.abs(v)), 0);
}

/** Slope of a straight line through the points, by least squares. */
export function slope(points: readonly (readonly [number, number])[]): number {
  const n = points.length;
  const mx = points.reduce((a, p) => a + p[0], 0) / n;
  const my = points.reduce((a, p) => a + p[1], 0) / n;
  return (
    points.reduce((a, p) => a + (p[0] - mx) * (p[1] - my), 0) /
    points.reduce((a, p) => a + (p[0] - mx) ** 2, 0)
  );
}

export function kineticEnergy(s: Simulation): number {
  return (['velocityX', 'velocityY', 'velocityZ'] as const).reduce(
    (e, c) => e + s.read(c).reduce((a, v) => a + v * v, 0),
    0,
  );
}
