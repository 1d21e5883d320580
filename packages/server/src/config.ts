// Where things are, from the environment that the start script sets.
import { readFileSync } from 'node:fs';
import { join, resolve } from 'node:path';

export interface Config {
  readonly host: string;
  readonly port: number;
  readonly dataFolder: string;
  /** The built page, or null to serve only the interface for programs. */
  readonly webFolder: string | null;
  readonly demoFolder: string | null;
  /** Whether the shots of a demo that was loaded now are baked at once. */
  readonly bakesDemo: boolean;
  readonly cli: string;
  /** A folder whose volumes may be brought in without an upload; null for none. */
  readonly volumesFolder: string | null;
  /** Where packages are written that are to lie on this machine. */
  readonly handOverFolder: string;
  readonly database: {
    readonly host: string;
    readonly port: number;
    readonly user: string;
    readonly password: string;
    readonly name: string;
  };
}

/** @throws Error naming the variable that is missing */
export function configFromEnvironment(env: NodeJS.ProcessEnv): Config {
  const need = (name: string): string => {
    const value = env[name];
    if (!value) throw new Error(`${name} is not set. Start the application with: npm start`);
    return value;
  };

  const dataFolder = resolve(need('BRAMBLEMIST_DATA'));
  return {
    host: env.BRAMBLEMIST_HOST ?? '127.0.0.1',
    port: Number(env.BRAMBLEMIST_PORT ?? 4810),
    dataFolder,
    webFolder: env.BRAMBLEMIST_WEB ? resolve(env.BRAMBLEMIST_WEB) : null,
    demoFolder: env.BRAMBLEMIST_DEMO ? resolve(env.BRAMBLEMIST_DEMO) : null,
    bakesDemo: env.BRAMBLEMIST_DEMO_BAKES === 'yes',
    cli: resolve(need('BRAMBLEMIST_CLI')),
    volumesFolder: env.BRAMBLEMIST_VOLUMES ? resolve(env.BRAMBLEMIST_VOLUMES) : null,
    handOverFolder: resolve(env.BRAMBLEMIST_HAND_OVER ?? join(dataFolder, 'handed-over')),
    database: JSON.parse(
      readFileSync(env.BRAMBLEMIST_DATABASE ?? join(dataFolder, 'database.json'), 'utf8'),
    ) as Config['database'],
  };
}
