// Opens the database and brings its tables up to date.
import { SequelizeStorage, Umzug } from 'umzug';
import type { QueryInterface, Sequelize } from 'sequelize';
import type { Config } from './config';
import { openDatabase } from './models';
import * as first from './migrations/0001-first-tables';
import * as files from './migrations/0002-files';
import * as judging from './migrations/0003-judging';
import * as queue from './migrations/0004-queue';
import * as keeping from './migrations/0005-keeping';
import * as fieldNames from './migrations/0006-field-names';
import * as revisions from './migrations/0007-revisions';
import * as sizes from './migrations/0008-sizes';
import * as kinship from './migrations/0009-kinship';
import * as movies from './migrations/0010-movies';
import * as savings from './migrations/0011-savings';
import * as comps from './migrations/0012-comps';
import * as oneFineWay from './migrations/0013-one-fine-way';
import * as solver from './migrations/0014-solver';
import * as boardOrder from './migrations/0015-board';
import * as packages from './migrations/0016-packages';
import * as review from './migrations/0017-review';
import * as handOver from './migrations/0018-hand-over';
import * as particleRuns from './migrations/0019-particle-runs';

const MIGRATIONS = [
  first,
  files,
  judging,
  queue,
  keeping,
  fieldNames,
  revisions,
  sizes,
  kinship,
  movies,
  savings,
  comps,
  oneFineWay,
  solver,
  boardOrder,
  packages,
  review,
  handOver,
  particleRuns,
];

export async function connect(config: Config['database']): Promise<Sequelize> {
  const sequelize = openDatabase(config);
  try {
    await sequelize.authenticate();
  } catch (error) {
    throw new Error(
      `The database at ${config.host}:${config.port} does not answer (${(error as Error).message}). ` +
        'Start the application with: npm start',
    );
  }

  const umzug = new Umzug<QueryInterface>({
    migrations: MIGRATIONS.map((m) => ({
      name: m.name,
      up: ({ context }) => m.up(context),
      down: ({ context }) => m.down(context),
    })),
    context: sequelize.getQueryInterface(),
    storage: new SequelizeStorage({ sequelize }),
    logger: undefined,
  });
  await umzug.up();
  return sequelize;
}
