// Keys over time: each curve moves one number of another part.
import { choice, definePart, text } from '../settings';

export const CURVES = definePart({
  key: 'curves',
  title: 'Curves',
  many: true,
  keyable: false,
  sentence: '{path}, after its last key {after}.',
  settings: [
    text(
      'path',
      'setting',
      'buoyancy/lift',
      'Which number: the part, for one of a list its id, and the setting: sources/lip/density.amount.',
    ),
    {
      kind: 'keys',
      path: 'keys',
      label: 'keys',
      default: [{ frame: 1, value: 0, ease: 'smooth' }],
      doc: 'Frames (parts of frames too), values in the setting’s unit, and how the curve leaves each key.',
    },
    choice(
      'after',
      'after the last key',
      [
        ['hold', 'holds'],
        ['loop', 'starts again'],
        ['swing', 'swings back'],
      ],
      'What the curve does after its last key.',
    ),
  ],
});
