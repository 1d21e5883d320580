// What is told as it happens, and who has what open.
import { Router } from 'express';
import { tellPresent } from '@bramblemist/contracts/requests';
import type { ServerEvent } from '@bramblemist/contracts/payloads/events';
import type { Events } from '../events';
import { body, route } from './door';

const HEARTBEAT_MS = 15000;

export function eventRoutes(events: Events): Router {
  const router = Router();
  router.get('/events', (req, res) => {
    res.set({ 'Content-Type': 'text/event-stream', 'Cache-Control': 'no-store', 'X-Accel-Buffering': 'no' });
    res.flushHeaders();
    const onEvent = (event: ServerEvent): void => void res.write(`data: ${JSON.stringify(event)}\n\n`);
    events.on('event', onEvent);
    const beat = setInterval(() => res.write(': still here\n\n'), HEARTBEAT_MS);
    const end = (): void => {
      clearInterval(beat);
      events.off('event', onEvent);
    };

    req.on('close', end);
    res.on('error', end);
  });
  router.post(
    '/present',
    route(async (req, res) => {
      const { client, shotId, variantId } = body(tellPresent, req);
      events.present(client, shotId, variantId);
      res.json({ present: shotId === null ? [] : events.presentAt(shotId) });
    }),
  );
  return router;
}
