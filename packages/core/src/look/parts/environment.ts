// Settings of a look: the light from all round.
import { choice, definePart, linearColour, number, reference, type When } from '../../recipe/settings';

const EVEN: When = { path: 'kind', is: 'even' };
const PICTURE: When = { path: 'kind', is: 'picture' };

export const SKY = definePart({
  key: 'sky',
  title: 'Environment',
  many: false,
  keyable: true,
  sentence:
    'All round {stops} stops of [kind=even:{colour}][kind=picture:{picture}, turned by {turn}], {seen}.',
  settings: [
    choice(
      'kind',
      'environment',
      [
        ['even', 'even'],
        ['picture', 'a picture'],
      ],
      'The same light from everywhere, or what a picture of all directions shows.',
    ),
    number('stops', 'intensity', '', [-20, 20], -1.5, 'In stops; each doubles.'),
    ...linearColour('colour', 4, [0.62, 0.74, 0.9], 'Linear colour of light from everywhere.', EVEN),
    {
      ...reference(
        'picture',
        'picture',
        ['files'],
        'An HDR, EXR or PNG picture of all directions, twice as wide as high.',
        PICTURE,
      ),
      none: 'no picture yet',
    },
    number('turn', 'turn', '°', [-360, 360], 0, 'Turns the picture about the upright axis.', {
      when: PICTURE,
    }),
    choice(
      'seen',
      'background',
      [
        ['unseen', 'not seen behind'],
        ['seen', 'seen behind everything'],
      ],
      'Seen: the picture has no clear places left.',
    ),
  ],
});
