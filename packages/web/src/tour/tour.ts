// The tour: where somebody is in it, kept from visit to visit, and its steps.
import { create } from 'zustand';

const KEPT = 'bramblemist.tour';

/** What a step looks at to see that it was done. */
export interface Seen {
  readonly path: string;
  /** Changes of documents that can be undone. */
  readonly changes: number;
  /** Where the scene is seen from; empty until it stands. */
  readonly eye: string;
  /** Somebody stands at a frame of their own choosing. */
  readonly isStill: boolean;
  readonly frame: number;
  readonly bakes: number;
  readonly renders: number;
  readonly combines: number;
  readonly movies: number;
}

export interface TourStep {
  readonly title: string;
  readonly text: string;
  /** What is ringed. */
  readonly at: string;
  /** Whether it was done since the step began. */
  readonly isDone: (now: Seen, before: Seen) => boolean;
}

const NEXT_STEP = '[data-next-step]';
const WINDOW = 'section[aria-label="The window"]';
const onStage =
  (stage: string) =>
  ({ path }: Seen): boolean =>
    path.endsWith(`/${stage}`);

export const STEPS: readonly TourStep[] = [
  {
    title: 'This is running now',
    text:
      'The shot is computed while you look. Drag in the window to turn the scene; the wheel comes ' +
      'nearer.',
    at: WINDOW,
    isDone: (now, before) => before.eye !== '' && now.eye !== before.eye,
  },
  {
    title: 'Numbers are controls',
    text:
      'The page tells the whole simulation. Press a dotted number, such as how much density the source ' +
      'gives, type another and press Enter. The run begins again with it.',
    at: '[role="spinbutton"][aria-label$=", density"]',
    isDone: (now, before) => now.changes > before.changes,
  },
  {
    title: 'Stand at a frame',
    text:
      'Press in the strip of frames, or drag along it. Space plays and pauses. The curves above it are ' +
      'measured on every frame.',
    at: '[role="slider"][aria-label="Frame"]',
    isDone: (now, before) => now.isStill && (now.frame !== before.frame || !before.isStill),
  },
  {
    title: 'The next step stands here',
    text: 'Each stage has one. Press it to come to Run, where frames are kept on disk.',
    at: NEXT_STEP,
    isDone: onStage('run'),
  },
  {
    title: 'Bake it',
    text:
      'Choose “live” as the size for a first look: it takes seconds. Then bake. You can go on working ' +
      'meanwhile.',
    at: NEXT_STEP,
    isDone: (now, before) => now.bakes > before.bakes,
  },
  {
    title: 'Light it',
    text:
      'When it is done, go to Light. The window shows the render itself; lights and medium are ' +
      'sentences as well.',
    at: NEXT_STEP,
    isDone: onStage('light'),
  },
  {
    title: 'Render all frames',
    text: 'They are made in the queue, at the upper right. The comp uses them as they come.',
    at: NEXT_STEP,
    isDone: (now, before) => now.renders > before.renders,
  },
  {
    title: 'Lay it over the plate',
    text:
      'Go to Combine: the mist lies over its moving plate, stuck to it by a track. Each card is a ' +
      'layer.',
    at: 'nav[aria-label="Stages"]',
    isDone: onStage('combine'),
  },
  {
    title: 'Write the comp',
    text: 'When the render is done, write the frames.',
    at: NEXT_STEP,
    isDone: (now, before) => now.combines > before.combines,
  },
  {
    title: 'Keep a movie',
    text:
      'Below the layers stand the comps that were written. Press “make a movie” there, “For review”, ' +
      'and keep the MP4.',
    at: 'main[aria-label="The page"]',
    isDone: (now, before) => now.movies > before.movies,
  },
  {
    title: 'Hand it over',
    text:
      'Hand over packs volumes, pictures and a scene for other programs. Ctrl-K finds everything by ' +
      'its name, ? lists the keys, and the book at the upper right is the guide.',
    at: 'nav[aria-label="Stages"]',
    isDone: onStage('hand-over'),
  },
];

/** The step that is shown; null: none, it was left or ended, or never begun. */
export const useTour = create<{ readonly step: number | null }>(() => ({ step: kept() }));

function kept(): number | null {
  const text = typeof localStorage === 'undefined' ? null : localStorage.getItem(KEPT);
  const step = text === null || text === '' ? NaN : Number(text);
  return Number.isInteger(step) && step >= 0 && step < STEPS.length ? step : null;
}

export function goToStep(step: number | null): void {
  const next = step !== null && step >= 0 && step < STEPS.length ? step : null;
  localStorage.setItem(KEPT, next === null ? '' : String(next));
  useTour.setState({ step: next });
}

export const startTour = (): void => goToStep(0);
