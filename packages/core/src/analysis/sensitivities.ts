// Made by `npm run sensitivities`; see docs/sensitivities.md.
import type { Sensitivity, MeasureName } from './measures';

export const SENSITIVITIES: Readonly<Partial<Record<MeasureName, Readonly<Record<string, Sensitivity>>>>> = {
  coverage: {
    given: {
      mean: 0.315,
      spread: 0.101,
      shots: 8,
    },
    warmth: {
      mean: 0.071,
      spread: 0.096,
      shots: 5,
    },
    reach: {
      mean: 1.804,
      spread: 0.419,
      shots: 8,
    },
    push: {
      mean: 0.382,
      spread: 0.261,
      shots: 5,
    },
    lift: {
      mean: 0.059,
      spread: 0.091,
      shots: 6,
    },
    weight: {
      mean: 0.048,
      spread: 0.061,
      shots: 8,
    },
    wind: {
      mean: 0.171,
      spread: 0.279,
      shots: 5,
    },
    stir: {
      mean: 0.103,
      spread: 0.09,
      shots: 8,
    },
    eddies: {
      mean: -0.029,
      spread: 0.041,
      shots: 8,
    },
    whirls: {
      mean: 0.144,
      spread: 0.182,
      shots: 8,
    },
    fade: {
      mean: 0.091,
      spread: 0.129,
      shots: 7,
    },
    cool: {
      mean: -0.001,
      spread: 0.005,
      shots: 5,
    },
    thickness: {
      mean: 0.268,
      spread: 0.124,
      shots: 8,
    },
  },
  opacity: {
    given: {
      mean: 0.414,
      spread: 0.137,
      shots: 8,
    },
    warmth: {
      mean: -0.032,
      spread: 0.07,
      shots: 5,
    },
    reach: {
      mean: 0.803,
      spread: 0.237,
      shots: 8,
    },
    push: {
      mean: -0.033,
      spread: 0.125,
      shots: 5,
    },
    lift: {
      mean: -0.026,
      spread: 0.065,
      shots: 6,
    },
    weight: {
      mean: -0.025,
      spread: 0.038,
      shots: 8,
    },
    wind: {
      mean: -0.077,
      spread: 0.135,
      shots: 5,
    },
    stir: {
      mean: -0.023,
      spread: 0.026,
      shots: 8,
    },
    eddies: {
      mean: 0.015,
      spread: 0.013,
      shots: 8,
    },
    whirls: {
      mean: 0.008,
      spread: 0.046,
      shots: 8,
    },
    fade: {
      mean: 0.058,
      spread: 0.037,
      shots: 7,
    },
    cool: {
      mean: -0.003,
      spread: 0.003,
      shots: 5,
    },
    thickness: {
      mean: 0.436,
      spread: 0.124,
      shots: 8,
    },
  },
  softness: {
    given: {
      mean: -0.094,
      spread: 0.087,
      shots: 8,
    },
    warmth: {
      mean: 0.053,
      spread: 0.058,
      shots: 5,
    },
    reach: {
      mean: 0.029,
      spread: 0.141,
      shots: 8,
    },
    push: {
      mean: 0.117,
      spread: 0.102,
      shots: 5,
    },
    lift: {
      mean: 0.044,
      spread: 0.056,
      shots: 6,
    },
    weight: {
      mean: 0.03,
      spread: 0.054,
      shots: 8,
    },
    wind: {
      mean: 0.1,
      spread: 0.189,
      shots: 5,
    },
    stir: {
      mean: 0.081,
      spread: 0.066,
      shots: 8,
    },
    eddies: {
      mean: 0.005,
      spread: 0.031,
      shots: 8,
    },
    whirls: {
      mean: 0.048,
      spread: 0.089,
      shots: 8,
    },
    fade: {
      mean: -0.015,
      spread: 0.026,
      shots: 7,
    },
    cool: {
      mean: 0.009,
      spread: 0.022,
      shots: 5,
    },
    thickness: {
      mean: -0.13,
      spread: 0.083,
      shots: 8,
    },
  },
  lump: {
    given: {
      mean: 0.11,
      spread: 0.1,
      shots: 8,
    },
    warmth: {
      mean: 0.029,
      spread: 0.067,
      shots: 5,
    },
    reach: {
      mean: 0.778,
      spread: 0.248,
      shots: 8,
    },
    push: {
      mean: 0.182,
      spread: 0.166,
      shots: 5,
    },
    lift: {
      mean: 0.024,
      spread: 0.062,
      shots: 6,
    },
    weight: {
      mean: 0.029,
      spread: 0.041,
      shots: 8,
    },
    wind: {
      mean: 0.15,
      spread: 0.289,
      shots: 5,
    },
    stir: {
      mean: 0.052,
      spread: 0.033,
      shots: 8,
    },
    eddies: {
      mean: -0.016,
      spread: 0.032,
      shots: 8,
    },
    whirls: {
      mean: 0.048,
      spread: 0.045,
      shots: 8,
    },
    fade: {
      mean: 0.042,
      spread: 0.066,
      shots: 7,
    },
    cool: {
      mean: -0.004,
      spread: 0.013,
      shots: 5,
    },
    thickness: {
      mean: 0.082,
      spread: 0.118,
      shots: 8,
    },
  },
  front: {
    given: {
      mean: 0.222,
      spread: 0.103,
      shots: 8,
    },
    warmth: {
      mean: 0.102,
      spread: 0.08,
      shots: 5,
    },
    reach: {
      mean: 0.541,
      spread: 0.617,
      shots: 8,
    },
    push: {
      mean: 0.216,
      spread: 0.203,
      shots: 5,
    },
    lift: {
      mean: 0.085,
      spread: 0.083,
      shots: 6,
    },
    weight: {
      mean: 0.091,
      spread: 0.112,
      shots: 8,
    },
    wind: {
      mean: 0.522,
      spread: 0.404,
      shots: 5,
    },
    stir: {
      mean: 0.142,
      spread: 0.215,
      shots: 8,
    },
    eddies: {
      mean: -0.065,
      spread: 0.131,
      shots: 8,
    },
    whirls: {
      mean: 0,
      spread: 0.062,
      shots: 8,
    },
    fade: {
      mean: 0.065,
      spread: 0.135,
      shots: 7,
    },
    cool: {
      mean: -0.007,
      spread: 0.039,
      shots: 5,
    },
    thickness: {
      mean: 0.147,
      spread: 0.139,
      shots: 8,
    },
  },
};
