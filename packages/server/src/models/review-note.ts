// What was said of a version of a shot, at a frame.
import { DataTypes, type CreationOptional, type Sequelize } from 'sequelize';
import type { ReviewedKind, Stroke } from '@bramblemist/contracts/payloads/review';
import { Base, json, key, text, whole, when } from './columns';

export class ReviewNote extends Base<ReviewNote> {
  declare shotId: number;
  /** Of what: a comp, a render or a bake, by its number. */
  declare kind: ReviewedKind;
  declare ofId: number;
  declare frame: number;
  declare author: string;
  declare text: string;
  declare strokes: readonly Stroke[];
  declare done: CreationOptional<boolean>;
}

export const initReviewNote = (sequelize: Sequelize): unknown =>
  ReviewNote.init(
    {
      id: key(),
      shotId: whole(),
      kind: text(20) as never,
      ofId: whole(),
      frame: whole(),
      author: text(80),
      text: text(2000),
      strokes: json('strokes') as never,
      done: { type: DataTypes.BOOLEAN, allowNull: false, defaultValue: false },
      ...when(),
    },
    { sequelize, tableName: 'review_notes' },
  );
