// Made by `npm run sensitivities`; see docs/sensitivities.md.
import type { MeasureName, Sensitivity } from './measures';

export const SENSITIVITIES: Readonly<Partial<Record<MeasureName, Readonly<Record<string, Sensitivity>>>>> = {
  coverage: {
    given: {
      mean: 0.325,
      spread: 0.134,
      shots: 8,
    },
    warmth: {
      mean: 0.088,
      spread: 0.09,
      shots: 5,
    },
    reach: {
      mean: 1.863,
      spread: 0.475,
      shots: 8,
    },
    push: {
      mean: 0.417,
      spread: 0.296,
      shots: 5,
    },
    lift: {
      mean: 0.074,
      spread: 0.088,
      shots: 6,
    },
    weight: {
      mean: 0.041,
      spread: 0.058,
      shots: 8,
    },
    wind: {
      mean: 0.159,
      spread: 0.257,
      shots: 5,
    },
    stir: {
      mean: 0.043,
      spread: 0.056,
      shots: 8,
    },
    eddies: {
      mean: -0.035,
      spread: 0.037,
      shots: 8,
    },
    whirls: {
      mean: 0.065,
      spread: 0.067,
      shots: 8,
    },
    fade: {
      mean: 0.088,
      spread: 0.129,
      shots: 7,
    },
    cool: {
      mean: 0.006,
      spread: 0.007,
      shots: 5,
    },
    thickness: {
      mean: 0.282,
      spread: 0.157,
      shots: 8,
    },
  },
  opacity: {
    given: {
      mean: 0.452,
      spread: 0.109,
      shots: 8,
    },
    warmth: {
      mean: -0.056,
      spread: 0.06,
      shots: 5,
    },
    reach: {
      mean: 0.83,
      spread: 0.186,
      shots: 8,
    },
    push: {
      mean: -0.056,
      spread: 0.121,
      shots: 5,
    },
    lift: {
      mean: -0.047,
      spread: 0.059,
      shots: 6,
    },
    weight: {
      mean: -0.023,
      spread: 0.036,
      shots: 8,
    },
    wind: {
      mean: -0.09,
      spread: 0.16,
      shots: 5,
    },
    stir: {
      mean: -0.037,
      spread: 0.029,
      shots: 8,
    },
    eddies: {
      mean: 0.025,
      spread: 0.022,
      shots: 8,
    },
    whirls: {
      mean: -0.053,
      spread: 0.047,
      shots: 8,
    },
    fade: {
      mean: 0.065,
      spread: 0.037,
      shots: 7,
    },
    cool: {
      mean: -0.003,
      spread: 0.004,
      shots: 5,
    },
    thickness: {
      mean: 0.474,
      spread: 0.089,
      shots: 8,
    },
  },
  softness: {
    given: {
      mean: -0.12,
      spread: 0.099,
      shots: 8,
    },
    warmth: {
      mean: 0.049,
      spread: 0.099,
      shots: 5,
    },
    reach: {
      mean: 0.044,
      spread: 0.185,
      shots: 8,
    },
    push: {
      mean: 0.17,
      spread: 0.11,
      shots: 5,
    },
    lift: {
      mean: 0.041,
      spread: 0.092,
      shots: 6,
    },
    weight: {
      mean: 0.035,
      spread: 0.05,
      shots: 8,
    },
    wind: {
      mean: 0.096,
      spread: 0.165,
      shots: 5,
    },
    stir: {
      mean: 0.068,
      spread: 0.05,
      shots: 8,
    },
    eddies: {
      mean: -0.014,
      spread: 0.032,
      shots: 8,
    },
    whirls: {
      mean: 0.131,
      spread: 0.126,
      shots: 8,
    },
    fade: {
      mean: -0.022,
      spread: 0.024,
      shots: 7,
    },
    cool: {
      mean: -0.003,
      spread: 0.008,
      shots: 5,
    },
    thickness: {
      mean: -0.152,
      spread: 0.083,
      shots: 8,
    },
  },
  lump: {
    given: {
      mean: 0.112,
      spread: 0.104,
      shots: 8,
    },
    warmth: {
      mean: 0.038,
      spread: 0.058,
      shots: 5,
    },
    reach: {
      mean: 0.88,
      spread: 0.35,
      shots: 8,
    },
    push: {
      mean: 0.238,
      spread: 0.203,
      shots: 5,
    },
    lift: {
      mean: 0.032,
      spread: 0.055,
      shots: 6,
    },
    weight: {
      mean: 0.021,
      spread: 0.034,
      shots: 8,
    },
    wind: {
      mean: 0.153,
      spread: 0.283,
      shots: 5,
    },
    stir: {
      mean: 0.033,
      spread: 0.027,
      shots: 8,
    },
    eddies: {
      mean: -0.037,
      spread: 0.075,
      shots: 8,
    },
    whirls: {
      mean: 0.043,
      spread: 0.074,
      shots: 8,
    },
    fade: {
      mean: 0.027,
      spread: 0.044,
      shots: 7,
    },
    cool: {
      mean: 0,
      spread: 0.004,
      shots: 5,
    },
    thickness: {
      mean: 0.095,
      spread: 0.115,
      shots: 8,
    },
  },
  front: {
    given: {
      mean: 0.164,
      spread: 0.135,
      shots: 8,
    },
    warmth: {
      mean: 0.146,
      spread: 0.121,
      shots: 5,
    },
    reach: {
      mean: 0.774,
      spread: 0.899,
      shots: 8,
    },
    push: {
      mean: 0.312,
      spread: 0.236,
      shots: 5,
    },
    lift: {
      mean: 0.121,
      spread: 0.123,
      shots: 6,
    },
    weight: {
      mean: 0.096,
      spread: 0.076,
      shots: 8,
    },
    wind: {
      mean: 0.49,
      spread: 0.449,
      shots: 5,
    },
    stir: {
      mean: 0.136,
      spread: 0.305,
      shots: 8,
    },
    eddies: {
      mean: -0.128,
      spread: 0.188,
      shots: 8,
    },
    whirls: {
      mean: -0.038,
      spread: 0.375,
      shots: 8,
    },
    fade: {
      mean: 0.156,
      spread: 0.183,
      shots: 7,
    },
    cool: {
      mean: 0.012,
      spread: 0.039,
      shots: 5,
    },
    thickness: {
      mean: 0.071,
      spread: 0.124,
      shots: 8,
    },
  },
};
