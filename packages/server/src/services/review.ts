// Review: versions of a shot as moving pictures, and what was said of them.
import type { ReviewInfo, ReviewNoteInfo, ReviewVersion } from '@bramblemist/contracts/payloads/review';
import { routes } from '@bramblemist/contracts/routes';
import { Op } from 'sequelize';
import { Bake, CombineRun, Job, Render, ReviewNote, Variant, type Shot } from '../models';
import { BAKING } from '../models/job';
import type { Storage } from '../storage/storage';

const ORDER: [string, string][] = [['id', 'DESC']];

export const reviewNoteInfo = (n: ReviewNote): ReviewNoteInfo => ({
  id: n.id,
  kind: n.kind,
  of: n.ofId,
  frame: n.frame,
  author: n.author,
  text: n.text,
  strokes: n.strokes,
  done: n.done,
  createdAt: n.createdAt.toISOString(),
});

/** Comps, renders and bakes that have pictures, in this order, the newest of each first. */
export async function reviewOf(storage: Storage, shot: Shot): Promise<ReviewInfo> {
  const variants = await Variant.findAll({
    where: { shotId: shot.id },
    attributes: ['id', 'number', 'note'],
  });
  const bakes = await Bake.findAll({
    where: { variantId: variants.map((v) => v.id), clearedAt: null },
    order: ORDER,
  });
  const [combines, renders, jobs, notes] = await Promise.all([
    CombineRun.findAll({ where: { shotId: shot.id, clearedAt: null }, order: ORDER }),
    Render.findAll({ where: { bakeId: bakes.map((b) => b.id), clearedAt: null }, order: ORDER }),
    Job.findAll({
      where: { shotId: shot.id, kind: { [Op.in]: BAKING as string[] } },
      attributes: ['id', 'targetId'],
      order: [['id', 'ASC']],
    }),
    ReviewNote.findAll({ where: { shotId: shot.id }, order: [['id', 'ASC']] }),
  ]);
  const variantOf = (bakeId: number): string => {
    const bake = bakes.find((b) => b.id === bakeId);
    const variant = variants.find((v) => v.id === bake?.variantId);
    return variant ? `variant ${variant.number}: ${variant.note}` : '';
  };

  const rate = bakes[0]?.recipe.space.frameRate ?? 24;
  const versions: ReviewVersion[] = [];
  const add = async (
    of: Pick<ReviewVersion, 'kind' | 'id' | 'name' | 'about'> & { readonly createdAt: Date },
    folder: string,
    picture: string,
  ): Promise<void> => {
    const frames = await storage.pictured(folder);
    if (frames.length === 0) return;
    const { createdAt, ...rest } = of;
    versions.push({ ...rest, frames, rate, picture, createdAt: createdAt.toISOString() });
  };

  for (const { id, settings, createdAt } of combines)
    await add(
      { kind: 'comp', id, name: `Comp ${id}`, about: settings.name, createdAt },
      storage.combineFolder(id),
      routes.combinePicture(id, '{frame}', 'png'),
    );
  for (const { id, bakeId, createdAt } of renders)
    await add(
      { kind: 'render', id, name: `Render ${id}`, about: variantOf(bakeId), createdAt },
      storage.renderFolder(id),
      routes.renderPicture(id, '{frame}', 'png'),
    );
  for (const { id, createdAt } of bakes) {
    const job = jobs.findLast((j) => j.targetId === id);
    if (job)
      await add(
        { kind: 'bake', id, name: `Bake ${id}`, about: variantOf(id), createdAt },
        storage.loopFolder(id),
        routes.jobLoop(job.id, '{frame}'),
      );
  }

  return { status: shot.status, versions, notes: notes.map(reviewNoteInfo) };
}
