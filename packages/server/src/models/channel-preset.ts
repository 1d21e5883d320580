// Names of channels that someone keeps for a program that volumes are handed to.
import type { Sequelize } from 'sequelize';
import type { ChannelNames } from '@bramblemist/core/cache/channel-names';
import { Base, json, key, text, when } from './columns';

export class ChannelPreset extends Base<ChannelPreset> {
  declare name: string;
  declare channels: ChannelNames;
}

export const initChannelPreset = (sequelize: Sequelize): unknown =>
  ChannelPreset.init(
    { id: key(), name: text(80), channels: json('channels') as never, ...when() },
    { sequelize, tableName: 'channel_presets' },
  );
