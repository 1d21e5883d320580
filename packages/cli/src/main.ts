// bramblemist: the computation from a command line, without the server.
import { Command } from 'commander';
import { COMBINE } from '@bramblemist/core/combine/combine';
import { LOOK } from '@bramblemist/core/look/look';
import { example, EXAMPLES } from '@bramblemist/core/presets/examples';
import { DiskFullError } from '@bramblemist/core/io/node/files';
import { RECIPE } from '@bramblemist/core/recipe/recipe';
import { costCommand, type CostArguments } from './commands/cost';
import { bakeCommand, parseThreads, type BakeArguments } from './commands/bake';
import { benchFormula, benchStep } from './commands/bench';
import { benchBake } from './commands/bench-bake';
import { benchVolumes } from './commands/bench-volumes';
import { benchComp } from './commands/bench-comp';
import { benchRender } from './commands/bench-render';
import { bringCommand } from './commands/bring';
import { checkCommand, type CheckArguments } from './commands/check';
import { driftCommand, type DriftArguments } from './commands/drift';
import { infoCommand } from './commands/info';
import { movieCommand, type MovieArguments } from './commands/movie';
import { combineCommand, type CombineArguments } from './commands/combine';
import { renderCommand, type RenderArguments } from './commands/render';
import { renderCostCommand, savingsCommand, type MeasureArguments } from './commands/savings';
import { particlesCommand } from './commands/particles';
import { refineCommand } from './commands/refine';
import { CONTACT_SHEET } from '@bramblemist/core/io/node/contact-sheet';
import { channelsCommand, type ChannelsArguments } from './commands/channels';
import { contactCommand, type ContactArguments } from './commands/contact';
import { sceneCommand, type SceneArguments } from './commands/scene';
import { sheetCommand, type SheetArguments } from './commands/sheet';
import { listTools, toolCommand, verifyCommand, type ToolArguments } from './commands/tool';
import type { RunArguments } from './commands/run';
import { UsageError } from './failure';
import { watchParent } from './parent';

// whoever reads may stop early, as `| head` does
process.stdout.on('error', (error: NodeJS.ErrnoException) => process.exit(error.code === 'EPIPE' ? 0 : 1));

watchParent();

/** Loaded where it is asked for: packing archives takes long to load. */
const bundles = (): Promise<typeof import('./commands/run')> => import('./commands/run');

/** An option that may be given several times. */
const gather = (value: string, all: string[]): string[] => [...all, value];

const program = new Command('bramblemist')
  .description('Simulate, cache, light and combine smoke, dust, mist, dry ice and ink.')
  .version('0.1.0')
  .showHelpAfterError();

program
  .command('bake <recipe>')
  .description('simulate a recipe and write a volume for each frame and manifest.json')
  .requiredOption('--out <folder>', 'where the files go; must not hold a cache yet')
  .option('--files <folder>', 'where the recipe’s meshes and pictures are; by default beside it')
  .option('--frames <A-B>', 'only these frames are written (the run still starts at the first)')
  .option('--voxel <metres>', 'voxel size instead of the recipe’s')
  .option('--size <name>', 'a size of the recipe instead: live, rough, working or final')
  .option('--threads <n>', 'workers; all cores by default')
  .option('--bricks', 'also small previews for a screen, in preview/')
  .option('--look <file>', 'a look as JSON, for small pictures with --bricks')
  .option('--checkpoint <frames>', 'keep the whole state every so many frames, 0 for never', '10')
  .option('--resume', 'go on with what the folder holds of this bake, with the same bits')
  .option(
    '--other-substeps',
    'with --resume: the recipe may ask for other substeps; goes on from a state some frames back',
  )
  .option('--json', 'JSON lines instead of a bar')
  .action((path: string, args: BakeArguments) => bakeCommand(path, args));

program
  .command('drift <recipe>')
  .description('run a recipe at two sizes and say what of the coarser one may be trusted; writes no volumes')
  .option('--sizes <a,b>', 'two of live, rough, working and final', 'rough,working')
  .option('--files <folder>', 'where the recipe’s meshes and pictures are; by default beside it')
  .option('--last <frame>', 'only up to this frame')
  .option('--threads <n>', 'workers; all cores by default')
  .option('--json', 'as JSON')
  .action((path: string, args: DriftArguments) => driftCommand(path, args));

program
  .command('info <file>')
  .description('what an OpenVDB file holds')
  .option('--json', 'as JSON')
  .action(infoCommand);

program
  .command('check <file>')
  .description(
    'look a mesh, particles, a sequence or a picture over before it is used: size, holes, flipped ' +
      'faces, time',
  )
  .option('--name <name>', 'what the file is called, where its own name does not say')
  .option('--json', 'as JSON')
  .action((path: string, args: CheckArguments) => checkCommand(path, args));

program
  .command('recipe')
  .description('print an example recipe or the form of recipes')
  .option('--example <name>', `one of: ${EXAMPLES.join(', ')}`)
  .option('--schema [kind]', 'JSON Schema of a recipe, look or combine')
  .action((args: { example?: string; schema?: string | true }) => {
    if (args.schema) {
      const kinds = { recipe: RECIPE, look: LOOK, combine: COMBINE };
      const kind = args.schema === true ? 'recipe' : args.schema;
      if (!Object.hasOwn(kinds, kind))
        throw new UsageError(`--schema knows recipe, look and combine, not “${kind}”.`);
      return void console.log(JSON.stringify(kinds[kind as keyof typeof kinds].jsonSchema(), null, 2));
    }

    if (!args.example) throw new UsageError(`Say --example NAME (${EXAMPLES.join(', ')}) or --schema.`);
    let recipe;
    try {
      recipe = example(args.example);
    } catch (error) {
      throw new UsageError((error as Error).message);
    }

    console.log(JSON.stringify(recipe, null, 2));
  });

program
  .command('tool [folder]')
  .description('work on a cache, and write what comes out as a cache of its own')
  .option('--out <folder>', 'where it goes; must not hold another cache')
  .option(
    '--step <tool setting=value …>',
    'such as "smooth channel=density radius=0.05"; several are done in turn',
    gather,
    [],
  )
  .option('--steps <file>', 'steps as JSON: [{ "tool": …, "settings": … }]')
  .option('--files <folder>', 'where the recipe’s meshes are; by default beside the cache')
  .option('--frames <A-B>', 'only these frames of what comes out')
  .option('--look <file>', 'a look as JSON, for small pictures with --bricks')
  .option(
    '--caches <folder>',
    'where other caches are that settings name; by default they are named by their folder',
  )
  .option('--bricks', 'also small previews for a screen, in preview/')
  .option('--list', 'print the tools with their settings')
  .option('--json', 'JSON lines instead of a bar')
  .action(async (folder: string | undefined, args: ToolArguments & { list?: boolean }) => {
    if (args.list) return console.log(listTools());
    if (folder === undefined || args.out === undefined)
      throw new UsageError('Say which cache, and with --out where the new one goes.');
    return toolCommand(folder, args);
  });

program
  .command('particles <folder>')
  .description('send particles through the velocity of a cache: a PLY or CSV file a frame')
  .requiredOption('--out <folder>', 'where the files go; must not hold others')
  .option(
    '--set <setting=value>',
    'such as count=100000, seeds=source, way=backward; may be given several times',
    gather,
    [],
  )
  .option('--settings <file>', 'settings as JSON')
  .option('--format <kind>', 'ply (binary) or csv', 'ply')
  .option('--files <folder>', 'where the recipe’s meshes are; by default beside the cache')
  .option('--json', 'JSON lines instead of a bar')
  .action(particlesCommand);

program
  .command('refine <folder>')
  .description(
    'finer voxels and added small whirls for a cache; its coarse picture stays. Goes on with what ' +
      '--out holds of it',
  )
  .requiredOption('--out <folder>', 'where it goes; must not hold another cache')
  .option('--set <setting=value>', 'such as times=3, strength=120; may be given several times', gather, [])
  .option('--settings <file>', 'settings as JSON')
  .option('--frames <A-B>', 'only these frames; detail begins with the first of them')
  .option('--look <file>', 'a look as JSON, for small pictures with --bricks')
  .option('--threads <n>', 'workers; all cores by default')
  .option('--bricks', 'also small previews for a screen, in preview/')
  .option('--json', 'JSON lines instead of a bar')
  .action(refineCommand);

program
  .command('bring <path>')
  .description(
    'look over a .vdb file, a folder of numbered ones or a ZIP of them; with --out also bring them in ' +
      'as a cache',
  )
  .option('--out <folder>', 'where the cache goes; must not hold another')
  .option('--name <name>', 'what it is called, where its own name does not say')
  .option(
    '--recipe <file>',
    'of the shot that it is brought into: its frame rate and what stands in the domain',
  )
  .option('--bricks', 'also small previews for a screen, in preview/')
  .option('--look <file>', 'a look as JSON, for small pictures with --bricks')
  .option('--json', 'as JSON')
  .action(bringCommand);

program
  .command('verify <path>')
  .description('read a cache, or a package (ZIP or unpacked), again and hold every file against its checksum')
  .option('--json', 'JSON lines instead of a bar')
  .action(verifyCommand);

program
  .command('run <bundle>')
  .description(
    'run a bundle (ZIP) from the application on this machine, and pack its result for the way back',
  )
  .option('--out <folder>', 'where it runs; by default beside the bundle')
  .option('--threads <n>', 'workers; all cores by default')
  .option('--resume', 'go on with a run that was broken off, with the same bits')
  .option('--any-version', 'run it although another version made it')
  .option('--json', 'JSON lines instead of a bar')
  .action(async (path: string, args: RunArguments) => (await bundles()).runCommand(path, args));

program
  .command('unpack <result>')
  .description('unpack the result of a bundle, every file against its checksum')
  .requiredOption('--out <folder>', 'where it goes')
  .option('--json', 'what it is, as JSON')
  .action(async (path: string, args: { out: string; json?: boolean }) =>
    (await bundles()).unpackCommand(path, args),
  );

program
  .command('cost <what>')
  .description(
    'what a recipe’s bake, or with --render a folder’s render, will take: memory exactly, the rest by ' +
      'a probe',
  )
  .option('--render', 'of the volumes of a folder, as a look shows them')
  .option('--look <file>', 'of a render: a look as JSON; the default look without')
  .option('--frames <A-B>', 'of a render: only these frames')
  .option('--bakes <folder>', 'of a render: where the bakes of further media stand under their numbers')
  .option('--files <folder>', 'where the recipe’s meshes and pictures are; by default beside it')
  .option('--voxel <metres>', 'another voxel size')
  .option('--size <name>', 'a size of the recipe instead: live, rough, working or final')
  .option('--threads <n>', 'workers; all cores by default')
  .option('--json', 'as JSON')
  .action((what: string, args: CostArguments & MeasureArguments & { render?: boolean }) =>
    args.render ? renderCostCommand(what, args) : costCommand(what, args),
  );

program
  .command('savings <folder>')
  .description(
    'what could make the pictures of a look cheaper: each measured on a frame, with what it changes',
  )
  .requiredOption('--out <folder>', 'where savings.json and its pictures go')
  .option('--files <folder>', 'where the recipe’s meshes and pictures are; by default beside it')
  .option('--look <file>', 'a look as JSON; the default look without')
  .option('--recipe <file>', 'whose obstacles stand there; by default that of the folder’s manifest')
  .option('--frames <A-B>', 'the frame in the middle of these')
  .option('--bakes <folder>', 'where the bakes of further media stand under their numbers')
  .option('--threads <n>', 'workers; all cores by default')
  .option('--json', 'JSON lines instead of a bar')
  .action((folder: string, args: MeasureArguments & { out: string }) => savingsCommand(folder, args));

program
  .command('render <folder>')
  .description('light the volumes of a folder: OpenEXR with passes, deep OpenEXR, and PNG')
  .requiredOption('--out <folder>', 'where the pictures go')
  .option('--files <folder>', 'where the recipe’s meshes and pictures are; by default beside it')
  .option('--look <file>', 'a look as JSON; the default look without')
  .option('--recipe <file>', 'whose obstacles stand there; by default that of the folder’s manifest')
  .option('--frames <A-B>', 'only these frames')
  .option('--mode <mode>', 'quick or true, instead of the look’s')
  .option('--samples <n>', 'samples a pixel of a true picture, instead of the look’s')
  .option('--noise <error>', 'end a true picture at this root mean square of its luminance’s error')
  .option('--passes <names>', 'such as depth,motion, instead of the look’s; all or none')
  .option('--region <left,top,right,bottom>', 'only these pixels; the rest stays clear')
  .option(
    '--bakes <folder>',
    'where the bakes of further media stand under their numbers; without, beside this one',
  )
  .option('--camera <name>', 'only this camera (shot: the shot’s own); without, all that are on')
  .option('--resume', 'only frames whose pictures are not there yet')
  .option('--threads <n>', 'workers; all cores by default')
  .option('--json', 'JSON lines instead of a bar')
  .action((folder: string, args: RenderArguments) => renderCommand(folder, args));

program
  .command('scene <folder>')
  .description('the cache of a folder as a scene for other programs: OpenUSD (with volumes) and glTF')
  .requiredOption('--out <file>', 'FILE.usda; FILE.glb is written beside it')
  .option('--look <file>', 'a look as JSON, whose cameras and lights are in it; the default look without')
  .option('--files <folder>', 'where the recipe’s meshes and pictures are; by default beside it')
  .option(
    '--volumes <path>',
    'where the volumes will lie, from the scene: a folder, or with # for the digits of the frame a name, ' +
      'as vol/mist.####.vdb; by default where they are',
  )
  .option('--frames <A-B>', 'only these frames')
  .option('--pictures <path>', 'where the environment’s picture will lie, from the scene', 'files')
  .option('--particles <folder>', 'particles through the cache; may be given several times', gather, [])
  .option('--names <list>', 'what the volumes’ grids are called, as density=smoke,velocity=vel')
  .option('--json', 'what was written, as JSON')
  .action((folder: string, args: SceneArguments) => sceneCommand(folder, args));

program
  .command('channels <folder>')
  .description('copy a cache with its grids called as another program wants them')
  .requiredOption('--out <folder>', 'where the copy goes')
  .requiredOption('--names <list>', 'as density=smoke,velocity=vel; age= leaves age out')
  .option('--json', 'JSON lines instead of a bar')
  .action((folder: string, args: ChannelsArguments) => channelsCommand(folder, args));

program
  .command('contact <folder>')
  .description('a contact sheet: frames of a folder’s numbered pictures on a page, with their numbers')
  .requiredOption('--out <file>', 'FILE.png or FILE.pdf')
  .option('--title <text>', 'of a PDF: what stands over the pictures')
  .option('--about <text>', 'of a PDF: a line under its title')
  .option('--frames <A-B>', 'only these frames')
  .option('--columns <n>', 'pictures beside each other', String(CONTACT_SHEET.columns))
  .option('--most <n>', 'pictures at most, evenly taken', String(CONTACT_SHEET.most))
  .option('--json', 'what was written, as JSON')
  .action((folder: string, args: ContactArguments) => contactCommand(folder, args));

program
  .command('movie <folder>')
  .description('make a movie of a folder’s numbered pictures, through ffmpeg')
  .requiredOption('--out <file>', 'FILE.mp4 for review, FILE.mov with alpha')
  .option('--kind <kind>', 'review (H.264), prores (4444, with alpha) or png (without loss, with alpha)')
  .option('--rate <fps>', 'frames a second', '24')
  .option('--frames <A-B>', 'only these frames')
  .option('--background <r,g,b>', 'what a review movie stands over, 0 to 1', '0,0,0')
  .option('--burn [text]', 'write this and the frame’s number into the picture')
  .option('--json', 'JSON lines instead of a bar')
  .action((folder: string, args: MovieArguments) => movieCommand(folder, args));

program
  .command('combine <comp>')
  .description('make the frames of a comp: OpenEXR, PNG and, if asked for, JPEG')
  .requiredOption('--out <folder>', 'where the pictures go')
  .option('--renders <folder>', 'where renders lie, each in a folder by its number')
  .option(
    '--render <number=folder>',
    'where one render lies, “newest” for the newest of the shot; may be given several times',
    gather,
    [],
  )
  .option('--files <folder>', 'where the comp’s plates, tracks and tables are; by default beside it')
  .option('--frames <A-B>', 'only these frames')
  .option('--exr <type>', 'half or float', 'half')
  .option('--png <bits>', '8 or 16', '8')
  .option('--jpeg', 'a JPEG of each frame too')
  .option('--size <percent>', 'of the comp’s frame', '100')
  .option('--threads <n>', 'workers; all cores by default')
  .option('--resume', 'leave frames that are there already')
  .option('--json', 'JSON lines instead of a bar')
  .action((path: string, args: CombineArguments) => combineCommand(path, args));

program
  .command('sheet <recipe>')
  .description('small runs with one or two numbers varied, as pictures side by side in time')
  .requiredOption('--out <folder>', 'where the pictures go; must not hold a sheet yet')
  .requiredOption(
    '--vary <setting=values>',
    'such as turbulence/strength=0.2,0.4 or sources/lip/radius=0.1,0.2; once or twice',
    gather,
    [],
  )
  .option('--files <folder>', 'where the recipe’s meshes and pictures are; by default beside it')
  .option('--look <file>', 'a look as JSON; by default a camera that sees all of the domain')
  .option('--last <frame>', 'the last frame of each run')
  .option('--voxel <metres>', 'voxel size instead of the recipe’s')
  .option('--size <name>', 'a size of the recipe instead: live, rough, working or final')
  .option('--width <pixels>', 'of a picture', '320')
  .option('--json', 'JSON lines instead of a bar')
  .action((path: string, args: SheetArguments) => sheetCommand(path, args));

program
  .command('bench <what>')
  .description('time the computation on this machine; what: step, bake, volumes, formula, render, comp')
  .option('--size <n>', 'voxels along an edge', '64')
  .option('--threads <n>', 'workers; all cores by default')
  .option('--steps <n>', 'timed steps; frames of “bench bake”', '15')
  .option('--finer', 'of “bench bake”: the medium twice as fine as the air')
  .option('--dense', 'of “bench bake”: medium in every voxel')
  .option('--keep <file>', 'of “bench volumes”: where the file is left for other readers')
  .option('--text <formula>', 'of “bench formula”', 'density = clamp(density, 0, 1)')
  .option('--mode <mode>', 'of “bench render”: quick or true', 'quick')
  .option('--samples <n>', 'of “bench render”, true', '16')
  .option('--bounces <n>', 'of “bench render”, true', '4')
  .option('--json', 'as JSON')
  .action(
    (
      what: string,
      args: Record<'size' | 'steps' | 'text' | 'mode' | 'samples' | 'bounces', string> & {
        threads?: string;
        finer?: boolean;
        dense?: boolean;
        keep?: string;
        json?: boolean;
      },
    ) => {
      if (!['step', 'bake', 'volumes', 'formula', 'render', 'comp'].includes(what))
        throw new UsageError(
          `bench knows “step”, “bake”, “volumes”, “formula”, “render” and “comp”, not “${what}”.`,
        );
      const steps = Number(args.steps);
      if (!Number.isInteger(steps) || steps < 1 || steps > 1000)
        throw new UsageError('--steps must be a whole number from 1 to 1000.');
      const options = {
        size: Number(args.size),
        threads: parseThreads(args.threads),
        steps,
        warm: 5,
        json: args.json ?? false,
      };
      if (what === 'comp') return benchComp({ ...options, repeats: steps });
      if (what === 'bake')
        return benchBake({
          ...options,
          frames: steps,
          finer: args.finer ?? false,
          dense: args.dense ?? false,
        });
      if (what === 'volumes') return benchVolumes({ ...options, repeats: steps, keep: args.keep ?? null });
      if (what === 'step') benchStep(options);
      else if (what === 'render')
        benchRender({
          ...options,
          mode: args.mode,
          samples: Number(args.samples),
          bounces: Number(args.bounces),
          repeats: steps,
        });
      else benchFormula({ ...options, text: args.text });
    },
  );

program.parseAsync().catch((error: unknown) => {
  const message = error instanceof Error ? error.message : String(error);
  console.error(error instanceof UsageError || !process.env.DEBUG ? message : (error as Error).stack);
  process.exitCode = exitCodeOf(error);
});

function exitCodeOf(error: unknown): number {
  if (error instanceof UsageError) return 2;
  return error instanceof DiskFullError ? 3 : 1;
}
