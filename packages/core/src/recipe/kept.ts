// Which channels a recipe asks for.
import { CHANNEL_NAMES, type ChannelName } from '../base/channels';
import type { FormulaKeep } from '../formulas/language';
import type { Recipe } from './types';

type Asked = Pick<Recipe, 'keep' | 'settling'>;

/** Whether medium settles and stays where it lands. */
export const hasDeposit = ({ settling }: Pick<Recipe, 'settling'>): boolean =>
  settling.falls !== 'no' && settling.lands === 'lies';

/** What its formulas may read of channels that not every run carries. */
export const keptForFormulas = ({ keep, settling }: Asked): FormulaKeep => ({
  colour: keep.colour,
  age: keep.age,
  deposit: hasDeposit({ settling }),
});

/** Those that its caches keep. */
export const keptChannels = ({ keep, settling }: Asked): ChannelName[] =>
  CHANNEL_NAMES.filter(
    (name) => name === 'density' || (keep[name] && (name !== 'deposit' || hasDeposit({ settling }))),
  );

/** Those that a run carries: its buoyancy needs the temperature in any case, settling the deposit. */
export const carriedChannels = ({ keep, settling }: Asked): Exclude<ChannelName, 'velocity'>[] =>
  CHANNEL_NAMES.filter((name) => name !== 'velocity').filter((name) => {
    if (name === 'deposit') return hasDeposit({ settling });
    return name === 'density' || name === 'temperature' || keep[name];
  });
