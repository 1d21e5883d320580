// Handing over: what can be packed of a bake, packages as they were chosen, and their files in one stream.
import { readFile, rm } from 'node:fs/promises';
import { join } from 'node:path';
import { Router } from 'express';
import { newChannelPreset, newPackage } from '@bramblemist/contracts/requests';
import type { ChannelPreset as Preset, PackingInfo } from '@bramblemist/contracts/payloads/hand-over';
import { checkChannelNames, type ChannelNames } from '@bramblemist/core/cache/channel-names';
import type { Events } from '../events';
import { HttpError } from '../http-error';
import { toldBy, TRY_BOUNDS } from '../jobs/children';
import { Bake, ChannelPreset, HandedOver } from '../models';
import { bakeInside, choosePackage, packagesOf, packageOf } from '../services/hand-over';
import { folderOf, stopWriting, writeToFolder } from '../services/hand-over-folder';
import { packingOf } from '../services/packing';
import type { Storage } from '../storage/storage';
import { channelsOf } from '../views';
import { sendArchive } from './bundles';
import { body, found, idOf, route } from './door';

const presetInfo = ({ id, name, channels }: ChannelPreset): Preset => ({ id, name, channels });
const presets = async (): Promise<Preset[]> =>
  (await ChannelPreset.findAll({ order: [['name', 'ASC']] })).map(presetInfo);

function checkNames(channels: ChannelNames): void {
  try {
    checkChannelNames(channels, Object.keys(channels));
  } catch (error) {
    throw new HttpError(422, (error as Error).message);
  }
}

export function packageRoutes(storage: Storage, cli: string, events: Events): Router {
  const router = Router();
  const present = async (id: number): Promise<Bake> =>
    found(Bake.findOne({ where: { id, clearedAt: null } }), 'bake');
  router.get(
    '/bakes/:id/packing',
    route(async (req, res) => {
      const inside = await bakeInside(await present(idOf(req)));
      const packing = await packingOf(storage, inside);
      const packages = await packagesOf(inside.shot);
      const info: PackingInfo = {
        lines: packing.lines,
        packages,
        next: Math.max(0, ...packages.map((p) => p.version)) + 1,
        channels: channelsOf(inside.bake),
        presets: await presets(),
        handOverFolder: storage.handOver,
        isPictured: packing.contact !== null,
        production: packing.values.production,
        shot: packing.values.shot,
      };
      res.json(info);
    }),
  );
  router.post(
    '/bakes/:id/packages',
    route(async (req, res) => {
      const { names, note, lines, frames, channels } = body(newPackage, req);
      const inside = await bakeInside(await present(idOf(req)));
      const { id, version } = await choosePackage(storage, inside, names, note ?? '', {
        lines,
        frames: frames ?? null,
        ...(channels ? { channels: channels as ChannelNames } : {}),
      });
      res.status(201).json({ id, version });
    }),
  );
  router.get(
    '/packages/:id',
    route(async (req, res) => {
      const handedOver = await found(HandedOver.findByPk(idOf(req)), 'package');
      const own = await packageOf(storage, cli, handedOver);
      await sendArchive(res, own.name, (to) => own.send(to));
    }),
  );
  router.post(
    '/packages/:id/folder',
    route(async (req, res) => {
      const own = await found(HandedOver.findByPk(idOf(req)), 'package');
      writeToFolder({ storage, cli, events }, own, await packageOf(storage, cli, own));
      res.status(202).json(folderOf(own));
    }),
  );
  router.delete(
    '/packages/:id/folder',
    route(async (req, res) => {
      const own = await found(HandedOver.findByPk(idOf(req)), 'package');
      stopWriting(own.id);
      res.json(folderOf(own));
    }),
  );
  router.get(
    '/bakes/:id/contact',
    route(async (req, res) => {
      const { contact } = await packingOf(storage, await bakeInside(await present(idOf(req))));
      if (contact === null) throw new HttpError(404, 'There are no pictures of this bake yet.');
      const folder = await storage.scratch();
      try {
        const out = join(folder, 'contact.png');
        await toldBy(cli, ['contact', contact, '--out', out, '--json'], TRY_BOUNDS);
        // the address says which pictures it is of
        res
          .set('Cache-Control', 'private, max-age=3600')
          .type('png')
          .send(await readFile(out));
      } finally {
        await rm(folder, { recursive: true, force: true });
      }
    }),
  );
  router.post(
    '/channel-presets',
    route(async (req, res) => {
      const { name, channels } = body(newChannelPreset, req);
      checkNames(channels as ChannelNames);
      const [preset] = await ChannelPreset.upsert({ name: name.trim(), channels: channels as ChannelNames });
      res.status(201).json(presetInfo(preset));
    }),
  );
  router.delete(
    '/channel-presets/:id',
    route(async (req, res) => {
      const preset = await found(ChannelPreset.findByPk(idOf(req)), 'preset');
      await preset.destroy();
      res.json({});
    }),
  );
  return router;
}
