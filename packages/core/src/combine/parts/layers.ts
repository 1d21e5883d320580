// Layers of a comp: what feeds each, when, where, and how it meets what is below it.
import {
  choice,
  definePart,
  integer,
  linearColour,
  nameAndSwitch,
  number,
  reference,
  text,
  type When,
} from '../../recipe/settings';

const RENDER: When = { path: 'feed.kind', is: 'render' };
const FILE: When = { path: 'feed.kind', is: 'file' };
const PASSED: When = { path: 'feed.kind', is: ['render', 'file'] };
const COLOURED: When = { path: 'feed.kind', is: ['plain', 'gradient', 'text'] };
const SECOND: When = { path: 'feed.kind', is: ['gradient', 'text'] };
const TEXT: When = { path: 'feed.kind', is: 'text' };
const GRADIENT: When = { path: 'feed.kind', is: 'gradient' };
const BELOW: When = { path: 'feed.kind', is: 'layer' };
const BOUND: When = { path: 'bind.how', is: ['follows', 'steadied', 'pinned'] };

const FAR_PX = 20000;

export const LAYERS = definePart({
  key: 'layers',
  title: 'Layers',
  many: true,
  keyable: true,
  sentence:
    '{name}: {feed.kind}[feed.kind=render: {feed.render}][feed.kind=file: {feed.file}]' +
    '[feed.kind=layer: {feed.layer}][feed.kind=text: of {feed.size}, {feed.colour}]' +
    '[feed.kind=plain|gradient: {feed.colour}][feed.kind=gradient: to {feed.second}]' +
    ', {meet} at {opacity}[bind.how=follows:, bound to {bind.file}]' +
    '[bind.how=steadied:, steadied by {bind.file}][bind.how=pinned:, its corners pinned to {bind.file}]' +
    '[mask=*:, {mask}].[feed.kind=text: {feed.text}]',
  settings: [
    ...nameAndSwitch('Layer', 'What it is called.', 'Off: kept in the comp, and not seen.'),
    choice(
      'feed.kind',
      'fed by',
      [
        ['render', 'render'],
        ['file', 'file'],
        ['plain', 'plain colour'],
        ['gradient', 'gradient from'],
        ['layer', 'the layer'],
        ['text', 'text'],
      ],
      'What is seen of it.',
    ),
    integer(
      'feed.render',
      'render',
      '',
      [0, 1e9],
      0,
      'Number of a render, of this shot or of another one; 0 stands for the newest of this shot.',
      {
        when: RENDER,
        word: { is: 0, text: 'the newest of this shot' },
      },
    ),
    {
      ...reference('feed.file', 'file', ['files'], 'A picture, numbered pictures or a movie.', FILE),
      none: 'none yet',
    },
    {
      ...text(
        'feed.pass',
        'pass',
        '',
        'A layer of its pictures by name, such as lights.sun; empty: the picture itself.',
        true,
      ),
      when: PASSED,
    },
    {
      ...reference('feed.layer', 'layer', ['layers'], 'A layer further down, with its operations.', BELOW),
      none: 'none yet',
    },
    ...linearColour('feed.colour', 4, [0.18, 0.18, 0.18], 'Linear colour.', COLOURED),
    ...linearColour(
      'feed.second',
      4,
      [0.6, 0.65, 0.7],
      'Linear colour at the far end of a gradient, or behind text.',
      SECOND,
    ),
    {
      ...text(
        'feed.text',
        'text',
        '',
        'What is written; {frame} becomes the frame’s number, {comp} the comp’s name.',
        true,
      ),
      lines: true,
      when: TEXT,
    },
    number('feed.size', 'letters', 'px', [1, 2000], 36, 'Height of its letters, in pixels of the frame.', {
      when: TEXT,
    }),
    choice(
      'feed.align',
      'lines',
      [
        ['left', 'begin together'],
        ['centre', 'are centred'],
        ['right', 'end together'],
      ],
      'How lines of several lengths stand over one another.',
      { when: TEXT },
    ),
    number('feed.ground', 'ground', '%', [0, 100], 0, 'How much the ground behind the text hides.', {
      when: TEXT,
    }),
    number(
      'feed.turn',
      'gradient’s turn',
      '°',
      [-36000, 36000],
      90,
      'Which way it goes: 0° right, 90° down.',
      {
        when: GRADIENT,
      },
    ),
    integer(
      'time.start',
      'starts at',
      '',
      [-100000, 100000],
      1,
      'Frame of the comp at which its first frame stands.',
    ),
    integer('time.from', 'from its frame', '', [-100000, 100000], 1, 'First of its frames that is used.'),
    integer('time.to', 'to its frame', '', [0, 100000], 0, 'Last of its frames that is used.', {
      word: { is: 0, text: 'its end' },
    }),
    number('time.speed', 'speed', '%', [-1000, 1000], 100, 'Of its own pace; below 0 it runs back.'),
    choice(
      'time.before',
      'before its start',
      [
        ['gone', 'it is not there'],
        ['hold', 'its first frame is held'],
      ],
      'What is seen before it starts.',
    ),
    choice(
      'time.after',
      'after its end',
      [
        ['hold', 'its last frame is held'],
        ['loop', 'it starts again'],
        ['swing', 'it swings back'],
        ['gone', 'it is gone'],
      ],
      'What is seen behind its last frame.',
    ),
    choice(
      'time.between',
      'between its frames',
      [
        ['nearest', 'the nearer one'],
        ['blended', 'both, blended'],
        ['motion', 'both, carried along their motion'],
      ],
      'Where a frame of the comp falls between two of its own. Along their motion needs the motion pass.',
    ),
    choice(
      'time.gaps',
      'missing frames',
      [
        ['hold', 'the one before is held'],
        ['gone', 'nothing is seen'],
        ['stop', 'stop the comp'],
      ],
      'What stands for a frame that is not there.',
    ),
    choice(
      'place.fit',
      'size',
      [
        ['fill', 'fills the frame'],
        ['fit', 'fits into the frame'],
        ['own', 'pixel by pixel'],
        ['stretch', 'stretched to the frame'],
      ],
      'Its size before it is scaled.',
    ),
    number('place.x', 'moved right', 'px', [-FAR_PX, FAR_PX], 0, 'From the middle of the frame.'),
    number('place.y', 'moved down', 'px', [-FAR_PX, FAR_PX], 0, 'From the middle of the frame.'),
    number('place.scale', 'scale', '%', [0.1, 10000], 100, 'About its anchor.'),
    number('place.turn', 'turn', '°', [-36000, 36000], 0, 'About its anchor, clockwise.'),
    number(
      'place.anchorX',
      'anchor right',
      'px',
      [-FAR_PX, FAR_PX],
      0,
      'What it is scaled and turned about, from its middle.',
    ),
    number(
      'place.anchorY',
      'anchor down',
      'px',
      [-FAR_PX, FAR_PX],
      0,
      'What it is scaled and turned about, from its middle.',
    ),
    choice(
      'place.edges',
      'beside it',
      [
        ['nothing', 'nothing'],
        ['edge', 'its edge goes on'],
      ],
      'What stands where it does not reach.',
    ),
    choice(
      'bind.how',
      'track',
      [
        ['free', 'not bound'],
        ['follows', 'follows a track'],
        ['steadied', 'steadied by a track'],
        ['pinned', 'pinned by four corners'],
      ],
      'Follows: it moves as what was tracked. Steadied: what was tracked stands still. Pinned: its ' +
        'corners lie on ' +
        'the four that were tracked.',
    ),
    {
      ...reference('bind.file', 'track’s file', ['files'], 'A CSV or JSON track.', BOUND),
      none: 'no track yet',
    },
    integer(
      'bind.frame',
      'as placed at',
      '',
      [0, 100000],
      0,
      'Frame at which it stands where it is placed.',
      {
        when: { path: 'bind.how', is: ['follows', 'steadied'] },
        word: { is: 0, text: 'the track’s first frame' },
      },
    ),
    choice(
      'meet',
      'meets',
      [
        ['over', 'over'],
        ['under', 'under what is there'],
        ['screen', 'screen'],
        ['add', 'added'],
        ['multiply', 'multiplied'],
        ['lighten', 'lighten'],
        ['difference', 'difference'],
        ['atop', 'only where something is below'],
        ['keep', 'keeps what is below it'],
        ['cut', 'cuts out what is below it'],
        ['depth', 'merged by depth'],
      ],
      'Over hides by its alpha; screen only brightens. Keeps and cuts use it as a matte. By depth: ' +
        'each pixel over ' +
        'or under, by which is nearer.',
    ),
    number('opacity', 'opacity', '%', [0, 100], 100, 'Part of it that is used.'),
    {
      ...reference('mask', 'mask', ['masks'], 'Where it is seen.'),
      none: 'everywhere',
      prefix: 'within ',
    },
  ],
});
