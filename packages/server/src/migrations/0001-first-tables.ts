import { DataTypes, type QueryInterface } from 'sequelize';

const id = { type: DataTypes.INTEGER, primaryKey: true, autoIncrement: true };
const whole = { type: DataTypes.INTEGER, allowNull: false };
const data = { type: DataTypes.TEXT('long'), allowNull: false };
const text = (length: number) => ({ type: DataTypes.STRING(length), allowNull: false });
const when = {
  created_at: { type: DataTypes.DATE, allowNull: false },
  updated_at: { type: DataTypes.DATE, allowNull: false },
};
const to = (table: string) => ({ ...whole, references: { model: table, key: 'id' }, onDelete: 'CASCADE' });

export const name = '0001-first-tables';

export async function up(q: QueryInterface): Promise<void> {
  await q.createTable('productions', { id, name: text(120), note: text(500), ...when });
  await q.createTable('shots', {
    id,
    production_id: to('productions'),
    name: text(120),
    note: text(500),
    ...when,
  });
  await q.createTable('variants', {
    id,
    shot_id: to('shots'),
    number: whole,
    parent_id: { type: DataTypes.INTEGER, allowNull: true },
    note: text(500),
    recipe: data,
    look: data,
    combine: data,
    recipe_sha256: text(64),
    ...when,
  });
  await q.addIndex('variants', ['shot_id', 'number'], { unique: true });
  await q.createTable('bakes', {
    id,
    variant_id: to('variants'),
    recipe: data,
    recipe_sha256: text(64),
    voxel_size_m: { type: DataTypes.DOUBLE, allowNull: false },
    first_frame: whole,
    last_frame: whole,
    ...when,
  });
  await q.createTable('frames', {
    id,
    bake_id: to('bakes'),
    frame: whole,
    file: text(200),
    bytes: { type: DataTypes.BIGINT, allowNull: false },
    sha256: text(64),
    readings: data,
    ...when,
  });
  await q.addIndex('frames', ['bake_id', 'frame'], { unique: true });
  await q.createTable('jobs', {
    id,
    kind: text(20),
    state: text(20),
    target_id: whole,
    shot_id: to('shots'),
    done: whole,
    total: whole,
    message: { type: DataTypes.STRING(1000), allowNull: true },
    owner: { type: DataTypes.STRING(100), allowNull: true },
    started_at: { type: DataTypes.DATE, allowNull: true },
    ended_at: { type: DataTypes.DATE, allowNull: true },
    ...when,
  });
  await q.addIndex('jobs', ['state', 'id']);
  await q.createTable('assets', {
    id,
    shot_id: to('shots'),
    name: text(200),
    kind: text(20),
    sha256: text(64),
    bytes: whole,
    width: whole,
    height: whole,
    ...when,
  });
  await q.createTable('renders', {
    id,
    bake_id: to('bakes'),
    look: data,
    first_frame: whole,
    last_frame: whole,
    ...when,
  });
  await q.createTable('combines', {
    id,
    render_id: to('renders'),
    plate_id: { type: DataTypes.INTEGER, allowNull: true },
    settings: data,
    first_frame: whole,
    last_frame: whole,
    ...when,
  });
}

export async function down(q: QueryInterface): Promise<void> {
  for (const table of [
    'combines',
    'renders',
    'assets',
    'jobs',
    'frames',
    'bakes',
    'variants',
    'shots',
    'productions',
  ])
    await q.dropTable(table);
}
