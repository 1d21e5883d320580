// Which channels a recipe asks for.
import { CHANNEL_NAMES, type ChannelName } from '../base/channels';
import type { Recipe } from './types';

/** Those that its caches keep. */
export const keptChannels = ({ keep }: Pick<Recipe, 'keep'>): ChannelName[] =>
  CHANNEL_NAMES.filter((name) => name === 'density' || keep[name]);

/** Those that a run carries along with the air; its buoyancy needs the temperature in any case. */
export const carriedChannels = ({ keep }: Pick<Recipe, 'keep'>): Exclude<ChannelName, 'velocity'>[] =>
  CHANNEL_NAMES.filter((name) => name !== 'velocity').filter(
    (name) => name === 'density' || name === 'temperature' || keep[name],
  );
