// The tables as Sequelize models, a file each. Large things are files; here stands what is searched and
// joined.
import { Sequelize } from 'sequelize';
import type { Config } from '../config';
import { Asset, initAsset } from './asset';
import { Bake, initBake } from './bake';
import { BroughtFile, initBroughtFile } from './brought-file';
import { ChannelPreset, initChannelPreset } from './channel-preset';
import { CombineRun, initCombineRun } from './combine-run';
import { CompVersion, initCompVersion } from './comp-version';
import { ParticleRun, initParticleRun } from './particle-run';
import { Frame, initFrame } from './frame';
import { HandedOver, initHandedOver } from './handed-over';
import { Job, initJob } from './job';
import { Movie, initMovie } from './movie';
import { Production, initProduction } from './production';
import { Render, initRender } from './render';
import { ReviewNote, initReviewNote } from './review-note';
import { SavingsRun, initSavingsRun } from './savings-run';
import { Sheet, initSheet } from './sheet';
import { Shot, initShot } from './shot';
import { Variant, initVariant } from './variant';

export {
  Production,
  Shot,
  Variant,
  Bake,
  ParticleRun,
  Frame,
  Job,
  Movie,
  SavingsRun,
  Asset,
  BroughtFile,
  Sheet,
  Render,
  CombineRun,
  CompVersion,
  HandedOver,
  ChannelPreset,
  ReviewNote,
};

/** How they belong together; the database holds it by foreign keys. */
function associate(): void {
  Shot.belongsTo(Production, { foreignKey: 'productionId' });
  Variant.belongsTo(Shot, { foreignKey: 'shotId' });
  Variant.belongsTo(Variant, { as: 'parent', foreignKey: 'parentId' });
  Bake.belongsTo(Variant, { foreignKey: 'variantId' });
  Frame.belongsTo(Bake, { foreignKey: 'bakeId' });
  Render.belongsTo(Bake, { foreignKey: 'bakeId' });
  CombineRun.belongsTo(Shot, { foreignKey: 'shotId' });
  CompVersion.belongsTo(Shot, { foreignKey: 'shotId' });
  ReviewNote.belongsTo(Shot, { foreignKey: 'shotId' });
  HandedOver.belongsTo(Shot, { foreignKey: 'shotId' });
  HandedOver.belongsTo(Bake, { foreignKey: 'bakeId' });
  SavingsRun.belongsTo(Bake, { foreignKey: 'bakeId' });
  Movie.belongsTo(Render, { foreignKey: 'renderId' });
  Movie.belongsTo(CombineRun, { as: 'combine', foreignKey: 'combineId' });
  Sheet.belongsTo(Variant, { foreignKey: 'variantId' });
  ParticleRun.belongsTo(Bake, { foreignKey: 'bakeId' });
  Job.belongsTo(Shot, { foreignKey: 'shotId' });
  Asset.belongsTo(Shot, { foreignKey: 'shotId' });
}

/** Opens the database and binds the models to it. */
export function openDatabase(config: Config['database']): Sequelize {
  const sequelize = new Sequelize(config.name, config.user, config.password, {
    host: config.host,
    port: config.port,
    dialect: 'mariadb',
    logging: false,
    // a busy machine may take longer than the driver's second
    dialectOptions: { connectTimeout: 20000 },
    pool: { max: 8 },
    define: { underscored: true },
  });
  initProduction(sequelize);
  initShot(sequelize);
  initVariant(sequelize);
  initBake(sequelize);
  initParticleRun(sequelize);
  initFrame(sequelize);
  initJob(sequelize);
  initAsset(sequelize);
  initBroughtFile(sequelize);
  initSheet(sequelize);
  initRender(sequelize);
  initCombineRun(sequelize);
  initCompVersion(sequelize);
  initHandedOver(sequelize);
  initChannelPreset(sequelize);
  initReviewNote(sequelize);
  initMovie(sequelize);
  initSavingsRun(sequelize);
  associate();
  return sequelize;
}
