// Under which heads the settings of a part with many of them stand on a page.
import type { Setting } from './settings';

export const GROUPS = ['shape', 'placing', 'amounts', 'motion', 'timing', 'other'] as const;
export type SettingGroup = (typeof GROUPS)[number];

/** The first step of a setting's path → where it stands. */
export const STANDS: Readonly<Record<string, SettingGroup>> = {
  ...named(
    'shape',
    'shape file particles swell radius tube size points fill layer mask paint threshold softness grow soft ' +
      'facing edge lumps channel text low high mouth',
  ),
  ...named('placing', 'centre turn motion velocity spin follows where other joins'),
  ...named(
    'amounts',
    'density temperature colour push age expansion within endAmount count rate speed vary spread ball ' +
      'times does turning pull shear toPath born parent sequence pick inherit ballVary endSize most',
  ),
  ...named('motion', 'direction aim gravity drag churn churnSize churnPeriod meets bounce stick'),
  ...named('timing', 'timing burstEvery burstLength from until life lifeVary period seed'),
};

function named(group: SettingGroup, paths: string): Record<string, SettingGroup> {
  return Object.fromEntries(paths.split(' ').map((path) => [path, group]));
}

export const groupOf = ({ path }: Pick<Setting, 'path'>): SettingGroup =>
  STANDS[path.split('.')[0]] ?? 'other';
