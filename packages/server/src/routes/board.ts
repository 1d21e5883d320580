// The board: productions, and how their shots stand on it.
import { Router } from 'express';
import { changeCard, changeProduction, newProduction, orderShots } from '@bramblemist/contracts/requests';
import type { Events } from '../events';
import { Production } from '../models';
import { board, saveCard, saveOrder, saveProduction } from '../services/board';
import type { Storage } from '../storage/storage';
import { body, clientOf, idOf, route } from './door';

export function boardRoutes(storage: Storage, events: Events): Router {
  const router = Router();
  router.get(
    '/productions',
    route(async (_req, res) => void res.json(await board(storage))),
  );
  router.post(
    '/productions',
    route(async (req, res) => {
      const { id } = await Production.create({ name: body(newProduction, req).name });
      events.tell({ kind: 'board' });
      res.status(201).json({ id });
    }),
  );
  router.patch(
    '/productions/:id',
    route(async (req, res) => {
      await saveProduction(idOf(req), body(changeProduction, req));
      events.tell({ kind: 'board' });
      res.json({});
    }),
  );
  router.put(
    '/productions/:id/order',
    route(async (req, res) => {
      await saveOrder(idOf(req), body(orderShots, req).shots);
      events.tell({ kind: 'board' });
      res.json({});
    }),
  );
  router.patch(
    '/shots/:id/card',
    route(async (req, res) => {
      const { id, revision } = await saveCard(idOf(req), body(changeCard, req));
      events.tell({ kind: 'board' });
      events.tell({ kind: 'document', shotId: id, variantId: null, revision, client: clientOf(req) });
      res.json({});
    }),
  );
  return router;
}
