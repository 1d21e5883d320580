// The frame of a comp, the files that it is made with, and its keys.
import {
  choice,
  definePart,
  integer,
  linearColour,
  number,
  reference,
  text,
  type When,
} from '../../recipe/settings';

const COLOURED: When = { path: 'ground', is: 'colour' };
const BY_TABLE: When = { path: 'display', is: 'table' };

export const FRAME = definePart({
  key: 'frame',
  title: 'Frame',
  many: false,
  keyable: false,
  sentence:
    '{width} by {height} at {rate}, frames {first} to {last}, on {ground}[ground=colour: {colour}], ' +
    'seen as ' +
    '{display}[display=table: {table}].',
  settings: [
    integer(
      'width',
      'width',
      'px',
      [16, 8192],
      1280,
      'Across. Places and sizes in the comp are in its pixels.',
    ),
    integer('height', 'height', 'px', [16, 8192], 720, 'Down.'),
    number('rate', 'rate', 'fps', [1, 240], 24, 'Frames a second of the comp.'),
    integer('first', 'first frame', '', [0, 100000], 1, 'Where it begins.'),
    integer('last', 'last frame', '', [0, 100000], 96, 'Where it ends.'),
    number('squeeze', 'pixel aspect', '', [0.25, 4], 1, 'Width of a pixel over its height.'),
    choice(
      'ground',
      'ground',
      [
        ['clear', 'nothing'],
        ['colour', 'a colour'],
      ],
      'What lies under all layers; on nothing, the comp has an alpha of its own.',
    ),
    ...linearColour('colour', 4, [0.18, 0.18, 0.18], 'Linear colour of the ground.', COLOURED),
    choice(
      'display',
      'display',
      [
        ['srgb', 'sRGB'],
        ['rec709', 'Rec. 709'],
        ['soft', 'sRGB with soft highlights'],
        ['linear', 'linear light'],
        ['table', 'by a table'],
      ],
      'How it is shown, and what PNG, JPEG and movies are written in. OpenEXR is always linear light.',
    ),
    {
      ...reference('table', 'table', ['files'], 'A .cube file: what it makes of sRGB is shown.', BY_TABLE),
      none: 'no table yet',
    },
  ],
});

const PICTURED: When = { path: 'kind', is: ['picture', 'sequence', 'movie'] };
const IN_TIME: When = { path: 'kind', is: ['sequence', 'movie'] };

export const COMP_FILES = definePart({
  key: 'files',
  title: 'Files',
  many: true,
  keyable: false,
  sentence:
    '{name}, a {kind}[kind=picture|sequence|movie:, in {encoding}][encoding=table: {table}]' +
    '[kind=sequence|movie:, read at {rate}].',
  settings: [
    text('name', 'name', 'plate.png', 'Name of the file.'),
    text('sha256', 'content', '', 'What the file’s bytes hash to.', true),
    choice(
      'kind',
      'kind',
      [
        ['picture', 'picture'],
        ['sequence', 'numbered pictures'],
        ['movie', 'movie'],
        ['track', 'track'],
        ['table', 'table of colours'],
      ],
      'What is in it.',
    ),
    choice(
      'encoding',
      'light',
      [
        ['told', 'what the file says'],
        ['srgb', 'sRGB'],
        ['rec709', 'Rec. 709'],
        ['linear', 'linear light'],
        ['table', 'what a table makes of it'],
      ],
      'How its numbers mean light. A file that does not say: OpenEXR and HDR linear, movies Rec. 709, ' +
        'the rest ' +
        'sRGB.',
      { when: PICTURED },
    ),
    {
      ...reference(
        'table',
        'table',
        ['files'],
        'A .cube file that brings its numbers (a camera’s log, say) to sRGB.',
        { path: 'encoding', is: 'table' },
      ),
      none: 'no table yet',
    },
    choice(
      'alpha',
      'alpha',
      [
        ['told', 'as its kind has it'],
        ['multiplied', 'multiplied already'],
        ['straight', 'straight'],
        ['none', 'left out'],
      ],
      'Whether its colours are multiplied by alpha already. As a rule those of OpenEXR are, all others ' +
        'are not.',
      { when: PICTURED },
    ),
    number('rate', 'rate', 'fps', [0, 1000], 0, 'Frames a second that it is read at.', {
      when: IN_TIME,
      word: { is: 0, text: 'its own rate' },
    }),
  ],
});
