// What the channels of a cache are called by whoever gets it: other programs look for grids by names of their
// own.
import { CHANNEL_NAMES, type ChannelName } from '../base/channels';
import { CoreError } from '../base/error';

/** Ours → theirs; '' leaves a channel out, and one that is not named keeps its name. */
export type ChannelNames = Readonly<Partial<Record<ChannelName, string>>>;

/** What every program takes for the name of a grid. */
const FIT = /^[A-Za-z_][A-Za-z0-9_]{0,62}$/;

/** @returns null where the channel is left out */
export function nameIn(names: ChannelNames, channel: string): string | null {
  const own = names[channel as ChannelName];
  if (own === undefined) return channel;
  return own === '' ? null : own;
}

/**
 * @param channels those that a cache keeps
 * @throws CoreError naming the channel and the cure
 */
export function checkChannelNames(names: ChannelNames, channels: readonly string[]): void {
  const wrong = (message: string): never => {
    throw new CoreError('settings', message);
  };

  const taken = new Map<string, string>();
  for (const channel of Object.keys(names))
    if (!CHANNEL_NAMES.includes(channel as ChannelName))
      wrong(`There is no channel ${channel}. There are ${CHANNEL_NAMES.join(', ')}.`);
  for (const channel of channels) {
    const to = nameIn(names, channel);
    if (to === null) continue;
    if (!FIT.test(to))
      wrong(
        `${channel}: “${to}” is no name for a grid. Take letters, digits and _, a letter first, 63 at most.`,
      );
    const other = taken.get(to);
    if (other) wrong(`${other} and ${channel} would both be called ${to}. Give one of them another name.`);
    taken.set(to, channel);
  }

  if (taken.size === 0) wrong('No channel is left. Keep at least one of them.');
}

/**
 * As it is typed: `density=smoke,velocity=vel,age=`.
 * @throws CoreError where a piece is not of that form
 */
export function parseChannelNames(text: string): ChannelNames {
  return Object.fromEntries(
    text.split(',').map((piece) => {
      const match = /^\s*(\w+)\s*=\s*(\w*)\s*$/.exec(piece);
      if (!match)
        throw new CoreError(
          'settings',
          `“${piece}” is not of the form channel=name, as density=smoke; age= leaves it out.`,
        );
      return [match[1], match[2]];
    }),
  );
}
