// Whole recipes that ship, a file each with the other tries on it: the starting points of the command line
// and of the demo production.
import { CoreError } from '../base/error';
import { LOOK, type Look } from '../look/look';
import { parseRecipe } from '../recipe/recipe';
import type { Recipe } from '../recipe/types';
import dryingKiln from './examples/drying-kiln.json';
import iceCellar from './examples/ice-cellar.json';
import lanternJetty from './examples/lantern-jetty.json';
import quill from './examples/quill.json';
import sackDrop from './examples/sack-drop.json';
import warmPlume from './examples/warm-plume.json';
import weirAtDawn from './examples/weir-at-dawn.json';
import { cameraFor, startFrom, STARTING_POINTS } from './starting-points';

interface ExampleFile {
  readonly recipe: object;
  /** How it is lit and seen; left out: by the look that everything begins with. */
  readonly look?: object;
  /**
   * Other tries, each from the one before, or from the first: what it tries, and the parts of the recipe that
   * differ.
   */
  readonly tries: readonly { readonly note: string; readonly ofFirst?: boolean; readonly parts: object }[];
}

const FILES: Readonly<Record<string, ExampleFile>> = {
  'weir-at-dawn': weirAtDawn,
  'sack-drop': sackDrop,
  'ice-cellar': iceCellar,
  quill,
  'drying-kiln': dryingKiln,
  'lantern-jetty': lanternJetty,
  'warm-plume': warmPlume,
};

export const EXAMPLES: readonly string[] = [...Object.keys(FILES), ...STARTING_POINTS.map((p) => p.key)];

/** @throws Error naming the examples where there is none of that name */
export function example(name: string): Recipe {
  const start = startFrom(name);
  if (start) return start.recipe;
  if (!Object.hasOwn(FILES, name))
    throw new CoreError('settings', `There is no example called ${name}. There are: ${EXAMPLES.join(', ')}.`);
  return parseRecipe(structuredClone(FILES[name].recipe));
}

/** How a shot of that name is lit and seen, its camera on the whole of it where none is said. */
export function exampleLook(name: string): Look {
  const { look } = FILES[name];
  const recipe = example(name);
  return LOOK.parse({ name: recipe.name, camera: cameraFor(recipe), ...structuredClone(look) });
}

/** The other tries on a shot, in their order, as whole recipes. */
export function triesOf(name: string): { note: string; ofFirst: boolean; recipe: Recipe }[] {
  const first = example(name);
  let recipe = first;
  return (FILES[name]?.tries ?? []).map(({ note, ofFirst = false, parts }) => {
    recipe = parseRecipe({ ...(ofFirst ? first : recipe), ...structuredClone(parts) });
    return { note, ofFirst, recipe };
  });
}
