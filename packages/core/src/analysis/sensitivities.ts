// Made by `npm run sensitivities`; see docs/sensitivities.md.
import type { MeasureName, Sensitivity } from './measures';

export const SENSITIVITIES: Readonly<Partial<Record<MeasureName, Readonly<Record<string, Sensitivity>>>>> = {
  coverage: {
    given: {
      mean: 0.332,
      spread: 0.131,
      shots: 8,
    },
    warmth: {
      mean: 0.083,
      spread: 0.087,
      shots: 5,
    },
    reach: {
      mean: 1.873,
      spread: 0.475,
      shots: 8,
    },
    push: {
      mean: 0.408,
      spread: 0.278,
      shots: 5,
    },
    lift: {
      mean: 0.069,
      spread: 0.085,
      shots: 6,
    },
    weight: {
      mean: 0.039,
      spread: 0.056,
      shots: 8,
    },
    wind: {
      mean: 0.152,
      spread: 0.253,
      shots: 5,
    },
    stir: {
      mean: 0.096,
      spread: 0.085,
      shots: 8,
    },
    eddies: {
      mean: -0.048,
      spread: 0.041,
      shots: 8,
    },
    whirls: {
      mean: 0.059,
      spread: 0.062,
      shots: 8,
    },
    fade: {
      mean: 0.094,
      spread: 0.134,
      shots: 7,
    },
    cool: {
      mean: 0.004,
      spread: 0.003,
      shots: 5,
    },
    thickness: {
      mean: 0.295,
      spread: 0.157,
      shots: 8,
    },
  },
  opacity: {
    given: {
      mean: 0.452,
      spread: 0.108,
      shots: 8,
    },
    warmth: {
      mean: -0.055,
      spread: 0.058,
      shots: 5,
    },
    reach: {
      mean: 0.837,
      spread: 0.182,
      shots: 8,
    },
    push: {
      mean: -0.057,
      spread: 0.109,
      shots: 5,
    },
    lift: {
      mean: -0.046,
      spread: 0.057,
      shots: 6,
    },
    weight: {
      mean: -0.021,
      spread: 0.034,
      shots: 8,
    },
    wind: {
      mean: -0.091,
      spread: 0.165,
      shots: 5,
    },
    stir: {
      mean: -0.079,
      spread: 0.056,
      shots: 8,
    },
    eddies: {
      mean: 0.031,
      spread: 0.021,
      shots: 8,
    },
    whirls: {
      mean: -0.051,
      spread: 0.039,
      shots: 8,
    },
    fade: {
      mean: 0.061,
      spread: 0.035,
      shots: 7,
    },
    cool: {
      mean: -0.002,
      spread: 0.002,
      shots: 5,
    },
    thickness: {
      mean: 0.47,
      spread: 0.089,
      shots: 8,
    },
  },
  softness: {
    given: {
      mean: -0.116,
      spread: 0.093,
      shots: 8,
    },
    warmth: {
      mean: 0.068,
      spread: 0.078,
      shots: 5,
    },
    reach: {
      mean: 0.028,
      spread: 0.159,
      shots: 8,
    },
    push: {
      mean: 0.175,
      spread: 0.097,
      shots: 5,
    },
    lift: {
      mean: 0.057,
      spread: 0.075,
      shots: 6,
    },
    weight: {
      mean: 0.025,
      spread: 0.059,
      shots: 8,
    },
    wind: {
      mean: 0.101,
      spread: 0.165,
      shots: 5,
    },
    stir: {
      mean: 0.128,
      spread: 0.109,
      shots: 8,
    },
    eddies: {
      mean: -0.021,
      spread: 0.073,
      shots: 8,
    },
    whirls: {
      mean: 0.122,
      spread: 0.124,
      shots: 8,
    },
    fade: {
      mean: -0.007,
      spread: 0.02,
      shots: 7,
    },
    cool: {
      mean: 0.005,
      spread: 0.009,
      shots: 5,
    },
    thickness: {
      mean: -0.146,
      spread: 0.078,
      shots: 8,
    },
  },
  lump: {
    given: {
      mean: 0.118,
      spread: 0.1,
      shots: 8,
    },
    warmth: {
      mean: 0.032,
      spread: 0.073,
      shots: 5,
    },
    reach: {
      mean: 0.912,
      spread: 0.345,
      shots: 8,
    },
    push: {
      mean: 0.224,
      spread: 0.188,
      shots: 5,
    },
    lift: {
      mean: 0.026,
      spread: 0.068,
      shots: 6,
    },
    weight: {
      mean: 0.015,
      spread: 0.034,
      shots: 8,
    },
    wind: {
      mean: 0.17,
      spread: 0.312,
      shots: 5,
    },
    stir: {
      mean: 0.062,
      spread: 0.055,
      shots: 8,
    },
    eddies: {
      mean: -0.04,
      spread: 0.065,
      shots: 8,
    },
    whirls: {
      mean: 0.034,
      spread: 0.068,
      shots: 8,
    },
    fade: {
      mean: 0.025,
      spread: 0.037,
      shots: 7,
    },
    cool: {
      mean: 0,
      spread: 0.004,
      shots: 5,
    },
    thickness: {
      mean: 0.101,
      spread: 0.106,
      shots: 8,
    },
  },
  front: {
    given: {
      mean: 0.21,
      spread: 0.338,
      shots: 8,
    },
    warmth: {
      mean: 0.098,
      spread: 0.105,
      shots: 5,
    },
    reach: {
      mean: 0.8,
      spread: 0.83,
      shots: 8,
    },
    push: {
      mean: 0.25,
      spread: 0.16,
      shots: 5,
    },
    lift: {
      mean: 0.081,
      spread: 0.103,
      shots: 6,
    },
    weight: {
      mean: 0.084,
      spread: 0.086,
      shots: 8,
    },
    wind: {
      mean: 0.473,
      spread: 0.416,
      shots: 5,
    },
    stir: {
      mean: 0.151,
      spread: 0.289,
      shots: 8,
    },
    eddies: {
      mean: -0.191,
      spread: 0.218,
      shots: 8,
    },
    whirls: {
      mean: -0.121,
      spread: 0.255,
      shots: 8,
    },
    fade: {
      mean: 0.163,
      spread: 0.331,
      shots: 7,
    },
    cool: {
      mean: -0.008,
      spread: 0.016,
      shots: 5,
    },
    thickness: {
      mean: 0.122,
      spread: 0.312,
      shots: 8,
    },
  },
};
