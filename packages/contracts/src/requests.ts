// What the browser may ask for, checked at the server's door. Recipes, looks and combines are checked by the
// core.
import * as yup from 'yup';
import { CHANNEL_NAMES } from '@bramblemist/core/base/channels';

const UNTRIMMED = 'must not begin or end with a space';
/** Whether a text is a day of the calendar, as 2026-11-29. */
const isDay = (text: string): boolean =>
  /^\d{4}-\d\d-\d\d$/.test(text) && new Date(`${text}T00:00Z`).toJSON()?.slice(0, 10) === text;
/** A name that may be left as it is. */
const otherName = yup
  .string()
  .strict()
  .trim(UNTRIMMED)
  .min(1, 'must not be empty')
  .max(120, 'must be at most 120 characters');
const name = otherName.required('is missing');
const frame = yup
  .number()
  .strict()
  .integer('must be a whole number')
  .min(0)
  .max(100000)
  .required('is missing');
const range = yup
  .object({ first: frame, last: frame })
  .strict()
  .test('order', 'must not end before it starts', (v) => !v || v.last >= v.first);

const note = yup.string().strict().trim(UNTRIMMED).max(500, 'must be at most 500 characters');

export const newProduction = yup.object({ name }).noUnknown().strict();
export const changeProduction = yup
  .object({ name: otherName, note, archived: yup.boolean().strict() })
  .noUnknown()
  .strict();
const day = yup
  .string()
  .strict()
  .test('day', 'must be a day such as 2026-11-29', (text) => !text || isDay(text));
/** How a shot stands on the board; what is left out stays as it is. */
export const changeCard = yup
  .object({
    name: otherName,
    note,
    status: yup.string().strict().oneOf(['work', 'review', 'approved']),
    assignee: yup.string().strict().trim(UNTRIMMED).max(80, 'must be at most 80 characters'),
    due: day.nullable(),
    archived: yup.boolean().strict(),
  })
  .noUnknown()
  .strict();
export const orderShots = yup
  .object({
    shots: yup
      .array(yup.number().strict().integer().required())
      .required('is missing')
      .max(5000, 'must be at most 5000'),
  })
  .noUnknown()
  .strict();
export const newShot = yup
  .object({
    productionId: yup.number().strict().integer().required('is missing'),
    name,
    example: yup.string().strict().max(60),
  })
  .noUnknown()
  .strict();
const finite = (low: number, high: number) => yup.number().strict().min(low).max(high).required('is missing');
const place = yup.array(finite(-1e4, 1e4)).length(3, 'must be three numbers').required('is missing');
const view = yup
  .object({
    name: yup.string().strict().trim().min(1, 'must not be empty').max(60).required('is missing'),
    eye: place,
    target: place,
    focal: finite(4, 600),
  })
  .noUnknown()
  .strict();
const part = yup.number().strict().min(0).max(1);
const matte = yup
  .object({
    by: yup.string().strict().oneOf(['luminance', 'outline']).required('is missing'),
    from: part.required('is missing'),
    to: part.required('is missing'),
    points: yup
      .array(yup.array(part.required()).length(2).required())
      .min(3, 'must have at least three corners')
      .max(200),
  })
  .noUnknown()
  .strict()
  .test(
    'points',
    'must have the corners of its outline',
    (m) => m?.by !== 'outline' || (m.points?.length ?? 0) >= 3,
  );
export const changeShot = yup
  .object({
    views: yup.array(view).max(40, 'must be at most 40'),
    reference: yup
      .object({
        of: yup.string().strict().max(200),
        place: yup.string().strict().oneOf(['beside', 'over', 'under']),
        opacity: part,
        first: frame.optional(),
        matte: matte.default(undefined),
      })
      .noUnknown()
      .strict()
      .default(undefined),
  })
  .noUnknown()
  .strict();
export const tellPresent = yup
  .object({
    client: yup
      .string()
      .strict()
      .matches(/^[\w-]{8,64}$/, 'must be an id')
      .required('is missing'),
    shotId: yup.number().strict().integer().nullable().defined('is missing'),
    variantId: yup.number().strict().integer().nullable().defined('is missing'),
  })
  .noUnknown()
  .strict();
export const changeVariant = yup
  .object({
    recipe: yup.mixed(),
    look: yup.mixed(),
    combine: yup.mixed(),
    note: yup.string().strict().max(500),
  })
  .noUnknown()
  .strict();
/** from: the variant that it is a try on, by default the last one; recipe: its recipe where that differs. */
export const newVariant = yup
  .object({
    note: yup.string().strict().max(500).default(''),
    from: yup.number().strict().integer(),
    recipe: yup.mixed(),
  })
  .noUnknown();
/** Edge of a voxel, m. */
const voxelSize = yup
  .number()
  .strict()
  .min(0.001, 'must be at least 0.001 m')
  .max(10, 'must be at most 10 m')
  .required('is missing');

export const newBake = yup
  .object({
    voxelSizeM: voxelSize,
    frames: range.required('is missing'),
  })
  .noUnknown()
  .strict();
export const changeBake = yup
  .object({ locked: yup.boolean().strict().required('is missing') })
  .noUnknown()
  .strict();
const steps = yup
  .array(
    yup
      .object({
        tool: yup.string().strict().max(40).required('is missing'),
        settings: yup.mixed().required('is missing'),
      })
      .noUnknown(),
  )
  .min(1, 'must have a step')
  .max(20, 'must have at most 20 steps');
export const newTool = yup
  .object({ steps: steps.required('is missing') })
  .noUnknown()
  .strict();
export const newRefine = yup
  .object({ settings: yup.mixed().required('is missing') })
  .noUnknown()
  .strict();
export const newParticleRun = yup
  .object({
    settings: yup.mixed().required('is missing'),
    format: yup.string().strict().oneOf(['ply', 'csv']).required('is missing'),
  })
  .noUnknown()
  .strict();
export const bringNamed = yup
  .object({ name: yup.string().strict().min(1).max(255).required('is missing') })
  .noUnknown()
  .strict();
export const askTried = yup
  .object({ frame, steps: steps.default(undefined), refine: yup.mixed() })
  .noUnknown()
  .strict();
export const newSheet = yup
  .object({
    varied: yup
      .array(
        yup
          .object({
            path: yup.string().strict().max(120).required('is missing'),
            values: yup
              .array(yup.number().strict().required('is missing'))
              .min(1, 'must have a value')
              .max(24)
              .required('is missing'),
          })
          .noUnknown()
          .strict(),
      )
      .min(1, 'must name a setting')
      .max(2, 'must be at most two')
      .required('is missing'),
    voxelSizeM: voxelSize,
    last: frame,
  })
  .noUnknown()
  .strict();
export const askCost = yup
  .object({
    recipe: yup.mixed().required('is missing'),
    voxelSizeM: voxelSize,
  })
  .noUnknown()
  .strict();
export const newRender = yup
  .object({ look: yup.mixed().required('is missing'), frames: range.required('is missing') })
  .noUnknown()
  .strict();
export const newCombine = yup
  .object({
    settings: yup.mixed().required('is missing'),
    frames: range.required('is missing'),
    output: yup
      .object({
        exr: yup.string().strict().oneOf(['half', 'float'], 'must be half or float').default('half'),
        png: yup.number().strict().oneOf([8, 16], 'must be 8 or 16').default(8),
        jpeg: yup.boolean().strict().default(false),
        scale: yup
          .number()
          .strict()
          .min(0.05, 'must be at least 0.05')
          .max(4, 'must be at most 4')
          .default(1),
      })
      .noUnknown()
      .strict(),
  })
  .noUnknown()
  .strict();
export const newCompVersion = yup
  .object({
    settings: yup.mixed().required('is missing'),
    note: yup.string().strict().max(500, 'is longer than 500 letters').default(''),
  })
  .noUnknown()
  .strict();
export const changeCompVersion = yup
  .object({ note: yup.string().strict().max(500, 'is longer than 500 letters').required('is missing') })
  .noUnknown()
  .strict();
const said = yup
  .string()
  .strict()
  .trim(UNTRIMMED)
  .min(1, 'must not be empty')
  .max(2000, 'must be at most 2000 characters');
export const newReviewNote = yup
  .object({
    kind: yup.string().strict().oneOf(['comp', 'render', 'bake']).required('is missing'),
    of: yup.number().strict().integer().required('is missing'),
    frame,
    author: yup.string().strict().trim(UNTRIMMED).max(80, 'must be at most 80 characters'),
    text: said.required('is missing'),
    strokes: yup
      .array(
        yup
          .array(yup.number().strict().min(0).max(1).required())
          .min(4, 'needs two points')
          .max(2000, 'has too many points')
          .test('pairs', 'must be pairs', (s) => (s?.length ?? 0) % 2 === 0)
          .required(),
      )
      .max(60, 'must be at most 60'),
  })
  .noUnknown()
  .strict();
export const changeReviewNote = yup.object({ done: yup.boolean().strict(), text: said }).noUnknown().strict();
const channelNames = yup
  .object(
    Object.fromEntries(
      CHANNEL_NAMES.map((name) => [name, yup.string().strict().max(63, 'must be at most 63 characters')]),
    ),
  )
  .noUnknown()
  .strict();
export const newPackage = yup
  .object({
    names: yup.string().strict().max(200, 'must be at most 200 characters').required('is missing'),
    note,
    lines: yup
      .array(yup.string().strict().max(40).required())
      .required('is missing')
      .min(1, 'must name something')
      .max(1000, 'must be at most 1000'),
    frames: range.nullable().default(undefined),
    channels: channelNames.default(undefined),
  })
  .noUnknown()
  .strict();
export const newChannelPreset = yup
  .object({
    name: yup
      .string()
      .strict()
      .max(80, 'must be at most 80 characters')
      .required('is missing')
      .matches(/\S/, 'must say something'),
    channels: channelNames.required('is missing'),
  })
  .noUnknown()
  .strict();
export const newMovie = yup
  .object({
    kind: yup
      .string()
      .strict()
      .oneOf(['review', 'prores', 'png'], 'must be review, prores or png')
      .required(),
    burn: yup.boolean().strict().default(false),
    note: yup.string().strict().max(200, 'is longer than 200 letters').default(''),
  })
  .noUnknown()
  .strict();
export const newSavings = yup
  .object({
    look: yup.mixed().required('is missing'),
    frame: yup.number().strict().integer().min(0).required('is missing'),
  })
  .noUnknown()
  .strict();
export const askRenderCost = yup
  .object({ look: yup.mixed().required('is missing') })
  .noUnknown()
  .strict();
