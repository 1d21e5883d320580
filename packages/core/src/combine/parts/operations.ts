// Operations on a layer, in the order of the list; and masks.
import {
  choice,
  definePart,
  flag,
  integer,
  linearColour,
  nameAndSwitch,
  number,
  type OutlineSetting,
  type ProfileSetting,
  reference,
  text,
  vector,
  type When,
} from '../../recipe/settings';

export const OPERATION_KINDS = [
  ['exposure', 'exposure'],
  ['tint', 'tint'],
  ['levels', 'levels'],
  ['curves', 'curve'],
  ['saturation', 'saturation and hue'],
  ['temperature', 'white balance'],
  ['blur', 'blur'],
  ['smear', 'blur along a line'],
  ['motion', 'motion blur by its motion pass'],
  ['sharpen', 'sharpen'],
  ['glow', 'glow'],
  ['grain', 'grain'],
  ['quiet', 'noise taken out'],
  ['edges', 'edges softened'],
  ['relight', 'relight'],
  ['thin', 'thickness'],
  ['fog', 'haze by depth'],
  ['table', 'table of colours'],
] as const;
export type OperationKind = (typeof OPERATION_KINDS)[number][0];

const of = (...is: OperationKind[]): When => ({ path: 'kind', is });

const CURVE: ProfileSetting<'curve'> = {
  kind: 'profile',
  path: 'curve',
  label: 'curve',
  onward: true,
  default: [
    [0, 0],
    [1, 1],
  ],
  doc:
    'What comes out over what goes in, both as the eye sees brightness (sRGB); above 1 it goes straight ' +
    'on.',
  when: of('curves'),
};

export const OPERATIONS = definePart({
  key: 'operations',
  title: 'Operations',
  many: true,
  keyable: true,
  sentence:
    '{kind}[kind=exposure:: {stops} stops][kind=tint:: {colour}][kind=levels:: {black} to {white}, ' +
    'gamma {gamma}]' +
    '[kind=curves: of {channels}][kind=saturation:: {saturation}, hue {hue}][kind=temperature:: for ' +
    '{kelvin}]' +
    '[kind=blur: of {size}][kind=smear: of {length} at {angle}][kind=motion: at {shutter}]' +
    '[kind=sharpen: by {amount} over {size}][kind=glow: of what is above {threshold}, {size} wide, by ' +
    '{amount}]' +
    '[kind=grain: of {amount}][kind=quiet: below {alike}][kind=edges: over {size}]' +
    '[kind=relight: {light}: {stops} stops of {colour}][kind=thin: of {power}]' +
    '[kind=fog: from {near}, {thickness} a metre, {colour}][kind=table: {table}]' +
    '[mask=*:, {mask}].',
  settings: [
    flag('on', 'on', true, 'Off: kept in the comp, without effect.'),
    { ...reference('layer', 'layer', ['layers'], 'The layer that it works on.'), none: 'no layer' },
    choice('kind', 'operation', OPERATION_KINDS, 'What it does.'),
    {
      ...text('light', 'light', 'sun', 'The light whose pass is made stronger, weaker or of another colour.'),
      when: of('relight'),
    },
    number('stops', 'exposure', '', [-20, 20], 0, 'In stops; each doubles.', {
      when: of('exposure', 'relight'),
    }),
    ...linearColour(
      'colour',
      4,
      [1, 1, 1],
      'Multiplies its colour; of haze the colour itself.',
      of('tint', 'relight', 'fog'),
    ),
    choice(
      'channels',
      'channels',
      [
        ['all', 'all colours'],
        ['red', 'red'],
        ['green', 'green'],
        ['blue', 'blue'],
      ],
      'Which of them it changes.',
      { when: of('levels', 'curves') },
    ),
    number('black', 'black', '', [-1, 1], 0, 'What becomes black, of sRGB from 0 to 1.', {
      when: of('levels'),
    }),
    number('white', 'white', '', [0, 4], 1, 'What becomes white, of sRGB.', { when: of('levels') }),
    number('gamma', 'gamma', '', [0.05, 20], 1, 'Above 1 brightens what lies between.', {
      when: of('levels'),
    }),
    number('low', 'lowest', '', [-1, 1], 0, 'What black becomes.', { when: of('levels') }),
    number('high', 'highest', '', [0, 4], 1, 'What white becomes.', { when: of('levels') }),
    CURVE,
    number('saturation', 'saturation', '%', [0, 400], 100, '0 % is grey.', { when: of('saturation') }),
    number('hue', 'hue', '°', [-360, 360], 0, 'Turns all colours about grey.', { when: of('saturation') }),
    number(
      'kelvin',
      'light',
      'K',
      [1000, 20000],
      6500,
      'Light of this temperature becomes white; above 6500 K it gets warmer.',
      {
        when: of('temperature'),
      },
    ),
    number('green', 'green', '', [-1, 1], 0, 'Toward green; below 0 toward magenta.', {
      when: of('temperature'),
    }),
    number('size', 'size', 'px', [0, 2000], 4, 'Standard deviation of the blur, in pixels of the frame.', {
      when: of('blur', 'sharpen', 'glow', 'edges', 'grain'),
    }),
    number('length', 'length', 'px', [0, 2000], 20, 'Of the way that is blurred along.', {
      when: of('smear'),
    }),
    number('angle', 'angle', '°', [-36000, 36000], 0, 'Which way: 0° right, 90° down.', {
      when: of('smear'),
    }),
    number('shutter', 'shutter', '°', [0, 720], 180, 'Open for this part of a frame’s 360°.', {
      when: of('motion'),
    }),
    number('amount', 'amount', '%', [0, 1000], 50, 'How much of it.', {
      when: of('sharpen', 'glow', 'grain'),
    }),
    number('threshold', 'threshold', '', [0, 100], 0.8, 'Light above this glows.', { when: of('glow') }),
    ...vector(
      'grain',
      ['red grain', 'green grain', 'blue grain'],
      '',
      [0, 4],
      [0.03, 0.025, 0.04],
      'Its deviation at white, of linear light, before the amount.',
      of('grain'),
    ),
    number('dark', 'in the dark', '%', [0, 100], 20, 'Part of the grain that black has.', {
      when: of('grain'),
    }),
    integer('seed', 'seed', '', [0, 1e6], 1, 'Another one, other grain.', { when: of('grain') }),
    number('alike', 'difference', '', [0.001, 4], 0.1, 'Pixels that differ by less are taken together.', {
      when: of('quiet'),
    }),
    integer('reach', 'reach', 'px', [1, 8], 3, 'How far it looks around each pixel.', { when: of('quiet') }),
    number('power', 'thickness', '%', [0, 800], 100, 'As if the medium were so many times as dense.', {
      when: of('thin'),
    }),
    number('near', 'from', 'm', [0, 10000], 2, 'Nearer things are not hazed.', { when: of('fog') }),
    number(
      'thickness',
      'haze',
      '',
      [0, 100],
      0.1,
      'Part of the light that a metre of it hides, for thin haze.',
      { when: of('fog') },
    ),
    {
      ...reference(
        'depthOf',
        'depth of',
        ['layers'],
        'The layer whose depth pass says how far things are.',
        of('fog'),
      ),
      none: 'the layer itself',
    },
    { ...reference('table', 'table', ['files'], 'A .cube file.', of('table')), none: 'none yet' },
    choice(
      'space',
      'it expects',
      [
        ['srgb', 'sRGB'],
        ['linear', 'linear light'],
      ],
      'What the table was made for.',
      { when: of('table') },
    ),
    { ...reference('mask', 'mask', ['masks'], 'Where it acts.'), none: 'everywhere', prefix: 'within ' },
  ],
});

const DRAWN: When = { path: 'kind', is: 'drawn' };
const TAKEN: When = { path: 'kind', is: 'taken' };
const TRACKED: When = { path: 'bind.how', is: 'follows' };

const OUTLINE: OutlineSetting<'outline'> = {
  kind: 'outline',
  path: 'outline',
  label: 'shapes',
  default: [
    {
      frame: 1,
      points: [
        [-160, -90],
        [160, -90],
        [160, 90],
        [-160, 90],
      ],
    },
  ],
  doc: 'Corners about the frame’s middle, in pixels; with several shapes it goes from one to the next.',
  when: DRAWN,
};

export const MASKS = definePart({
  key: 'masks',
  title: 'Masks',
  many: true,
  keyable: true,
  sentence:
    '{name}: {kind}[kind=drawn: {smooth}, soft by {inner} inside and {outer} outside]' +
    '[kind=taken: {channel} of {from} between {low} and {high}][invert=true:, turned round].',
  settings: [
    ...nameAndSwitch('Mask', 'What it is called.', 'Off: it lets everything through.'),
    choice(
      'kind',
      'mask',
      [
        ['drawn', 'an outline'],
        ['taken', 'taken from'],
      ],
      'Drawn on the frame, or what a layer shows.',
    ),
    OUTLINE,
    choice(
      'smooth',
      'lines',
      [
        ['smooth', 'with smooth lines'],
        ['straight', 'with straight lines'],
      ],
      'How its corners are joined.',
      { when: DRAWN },
    ),
    number('inner', 'soft inside', 'px', [0, 2000], 0, 'How far it fades inward.', { when: DRAWN }),
    number('outer', 'soft outside', 'px', [0, 2000], 40, 'How far it fades outward.', { when: DRAWN }),
    number('place.x', 'moved right', 'px', [-20000, 20000], 0, 'Moves the outline.', { when: DRAWN }),
    number('place.y', 'moved down', 'px', [-20000, 20000], 0, 'Moves the outline.', { when: DRAWN }),
    number('place.scale', 'scale', '%', [0.1, 10000], 100, 'About the frame’s middle.', { when: DRAWN }),
    number('place.turn', 'turn', '°', [-36000, 36000], 0, 'About the frame’s middle, clockwise.', {
      when: DRAWN,
    }),
    choice(
      'bind.how',
      'track',
      [
        ['free', 'not bound'],
        ['follows', 'follows a track'],
      ],
      'Follows: it moves as what was tracked.',
      { when: DRAWN },
    ),
    {
      ...reference('bind.file', 'track’s file', ['files'], 'A CSV or JSON track.', TRACKED),
      none: 'no track yet',
    },
    integer('bind.frame', 'as drawn at', '', [0, 100000], 0, 'Frame at which it stands where it is drawn.', {
      when: TRACKED,
      word: { is: 0, text: 'the track’s first frame' },
    }),
    {
      ...reference('from', 'layer', ['layers'], 'The layer that it is taken from, as it is fed.', TAKEN),
      none: 'no layer yet',
    },
    {
      ...text('pass', 'pass', '', 'A pass of that layer by name, such as depth; empty: its picture.', true),
      when: TAKEN,
    },
    choice(
      'channel',
      'what counts',
      [
        ['alpha', 'alpha'],
        ['luminance', 'brightness'],
        ['red', 'red'],
        ['green', 'green'],
        ['blue', 'blue'],
      ],
      'What of it counts. Passes of one value, such as depth, have it in red.',
      { when: TAKEN },
    ),
    number('low', 'from', '', [-1e4, 1e4], 0, 'At this value and below it lets nothing through.', {
      when: TAKEN,
    }),
    number('high', 'to', '', [-1e4, 1e4], 1, 'At this value and above it lets everything through.', {
      when: TAKEN,
    }),
    flag('invert', 'turned round', false, 'Lets through what it held back.'),
    {
      ...reference('with', 'with', ['masks'], 'Another mask that it is joined with.'),
      none: 'no other mask',
    },
    choice(
      'join',
      'joined',
      [
        ['both', 'where both let through'],
        ['either', 'where either does'],
        ['without', 'without the other'],
      ],
      'How it is joined with the other mask.',
    ),
  ],
});
