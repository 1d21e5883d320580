// Levels: a channel scaled, or one range of it laid onto another.
import { CoreError } from '../../base/error';
import { power, lengthOf } from '../../math/exact';
import { choice, definePart, number, type PartValues } from '../../recipe/settings';
import { cropToActive, withActive } from '../volume';
import { WHICH, type Tool } from './tool';

const PART = definePart({
  key: 'levels',
  title: 'Levels',
  many: false,
  keyable: false,
  sentence:
    'Of {channel}, {low} becomes {lowTo} and {high} becomes {highTo}, bent by {bend}; what lies beyond ' +
    '{beyond}.',
  settings: [
    choice(
      'channel',
      'channel',
      WHICH,
      'What is worked on; all else stays as it is. Of velocity, its magnitude.',
    ),
    number('low', 'from', '', [-1e6, 1e6], 0, 'Lower end of the range, in the channel’s unit.'),
    number('high', 'to', '', [-1e6, 1e6], 1, 'Upper end of the range.'),
    number('lowTo', 'new lower end', '', [-1e6, 1e6], 0, 'What the lower end becomes.'),
    number('highTo', 'new upper end', '', [-1e6, 1e6], 1, 'What the upper end becomes.'),
    number(
      'bend',
      'bend',
      '',
      [0.05, 20],
      1,
      'Exponent over the range: above 1 thins what is faint, below 1 thickens it.',
    ),
    choice(
      'beyond',
      'beyond the range',
      [
        ['goes', 'goes on alike'],
        ['cut', 'is held at the ends'],
      ],
      'Values outside of the range: on along the same line, or held at its ends.',
    ),
  ],
});

type Levels = PartValues<typeof PART>;

export const LEVELS: Tool<Levels> = {
  part: PART,
  apply(frames, s) {
    if (s.low === s.high) throw new CoreError('settings', 'The range has no width: its ends are the same.');
    const map = (x: number): number => {
      const t = (x - s.low) / (s.high - s.low);
      const held = s.beyond === 'cut' ? Math.min(1, Math.max(0, t)) : t;
      const bent = t > 0 && t < 1 ? power(t, s.bend) : held;
      return s.lowTo + bent * (s.highTo - s.lowTo);
    };

    return {
      ...frames,
      read(frame) {
        const v = frames.read(frame);
        const parts = v.channels.get(s.channel);
        if (!parts) throw new CoreError('settings', `The cache does not keep ${s.channel}.`);
        if (s.channel === 'velocity') {
          const made = parts.map((p) => p.slice());
          for (let n = 0; n < v.moving.length; n++) {
            const speed = lengthOf(parts[0][n], parts[1][n], parts[2][n]);
            const times = speed > 0 ? Math.max(0, map(speed)) / speed : 0;
            for (const p of made) p[n] *= times;
          }

          return { ...v, channels: new Map(v.channels).set('velocity', made) };
        }

        const made = parts.map((p) => p.map((x, n) => (v.active[n] ? map(x) : 0)));
        const next = { ...v, channels: new Map(v.channels).set(s.channel, made) };
        if (s.channel !== 'density') return next;
        for (let n = 0; n < made[0].length; n++) made[0][n] = Math.max(0, made[0][n]);
        const deposit = v.channels.get('deposit')?.[0];
        return cropToActive(
          withActive(
            next,
            v.active.map((a, n) => a & Number(made[0][n] > 0 || (deposit?.[n] ?? 0) > 0)),
          ),
        );
      },
    };
  },
};
