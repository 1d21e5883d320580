// Review: versions of a shot, and what is said of them.
import { Router } from 'express';
import { changeReviewNote, newReviewNote } from '@bramblemist/contracts/requests';
import type { ReviewedKind, Stroke } from '@bramblemist/contracts/payloads/review';
import type { Events } from '../events';
import { HttpError } from '../http-error';
import { ReviewNote, Shot } from '../models';
import { reviewNoteInfo, reviewOf } from '../services/review';
import type { Storage } from '../storage/storage';
import { body, found, idOf, route } from './door';

export function reviewRoutes(storage: Storage, events: Events): Router {
  const router = Router();
  const noteOf = (id: number): Promise<ReviewNote> => found(ReviewNote.findByPk(id), 'note');
  router.get(
    '/shots/:id/review',
    route(async (req, res) => {
      const shot = await found(Shot.findByPk(idOf(req)), 'shot');
      res.json(await reviewOf(storage, shot));
    }),
  );
  router.post(
    '/shots/:id/review',
    route(async (req, res) => {
      const { kind, of, frame, author, text, strokes } = body(newReviewNote, req);
      const shot = await found(Shot.findByPk(idOf(req)), 'shot');
      const { versions } = await reviewOf(storage, shot);
      const version = versions.find((v) => v.kind === kind && v.id === of);
      if (!version) throw new HttpError(422, `This shot has no ${kind} ${of} with pictures.`);
      const note = await ReviewNote.create({
        shotId: shot.id,
        kind: kind as ReviewedKind,
        ofId: of,
        frame,
        author: author ?? '',
        text,
        strokes: (strokes ?? []) as Stroke[],
      });
      events.tell({ kind: 'review', shotId: shot.id });
      res.status(201).json(reviewNoteInfo(note));
    }),
  );
  router.patch(
    '/review-notes/:id',
    route(async (req, res) => {
      const change = body(changeReviewNote, req);
      const note = await (await noteOf(idOf(req))).update(change);
      events.tell({ kind: 'review', shotId: note.shotId });
      res.json(reviewNoteInfo(note));
    }),
  );
  router.delete(
    '/review-notes/:id',
    route(async (req, res) => {
      const note = await noteOf(idOf(req));
      await note.destroy();
      events.tell({ kind: 'review', shotId: note.shotId });
      res.json({});
    }),
  );
  return router;
}
