// The programs of a recipe's formulas, and those of regions that are worked out voxel by voxel.
import { CoreError } from '../base/error';
import { check } from '../formulas/check';
import type { FormulaKeep, Moment } from '../formulas/language';
import { assemble, INSTRUCTION_BYTES, registerBytes, type Program } from '../formulas/program';
import { memoize } from '../base/memoize';
import type { Plan } from './plan';

const MOST_PROGRAMS = 64;

interface Wanted {
  readonly text: string;
  readonly moment: Moment | null;
  readonly keep: FormulaKeep;
}

const compiled = memoize(MOST_PROGRAMS, (key: string): Program => {
  const { text, moment, keep } = JSON.parse(key) as Wanted;
  const result = check(text, { moment, keep });
  if (!result.ok)
    throw new CoreError(
      'settings',
      `The formula “${text}”, character ${result.fault.from + 1}: ${result.fault.message}`,
    );
  return assemble(result.checked);
});

/** @throws CoreError where the text is no formula */
export const programOf = (text: string, moment: Moment | null, keep: FormulaKeep): Program =>
  compiled(JSON.stringify({ text, moment, keep } satisfies Wanted));

/** What the largest of the programs takes in memory; null without any. */
export function largest(all: readonly Program[]): Plan['programs'] {
  if (all.length === 0) return null;
  return {
    bytes: Math.max(...all.map((p) => p.instructions.length)) * INSTRUCTION_BYTES,
    registerBytes: Math.max(...all.map(registerBytes)),
    curls: Math.max(...all.map((p) => p.curls.length)),
  };
}
