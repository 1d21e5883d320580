// A shot: its variants, notes, references, and who has it open.
import { useEffect } from 'react';
import { useQuery, useQueryClient, type UseQueryResult } from '@tanstack/react-query';
import type { Recipe } from '@bramblemist/core/recipe/types';
import type { Present } from '@bramblemist/contracts/payloads/events';
import type { AssetInfo, ShotInfo, VariantInfo } from '@bramblemist/contracts/payloads/shot';
import { routes } from '@bramblemist/contracts/routes';
import { merge } from '@bramblemist/core/recipe/merge';
import { ApiError, ask, WINDOW_ID } from '../api';
import { flush } from '../bench';
import { keys, useAsk, shotTouched } from './ask';

export function useShot(id: number): UseQueryResult<ShotInfo> {
  return useQuery({ queryKey: keys.shot(id), queryFn: () => ask<ShotInfo>(routes.shot(id)), retry: 1 });
}

const TELL_EVERY_MS = 20_000;

/** Says that this window has a variant open, as long as it does; gives the others that have the shot open. */
export function usePresent(shotId: number, variantId: number): readonly Present[] {
  const client = useQueryClient();
  useEffect(() => {
    const tell = (shot: number | null): void =>
      void ask<{ present: Present[] }>(routes.present, {
        body: { client: WINDOW_ID, shotId: shot, variantId: shot === null ? null : variantId },
      }).then(
        ({ present }) => shot !== null && client.setQueryData(keys.present(shot), present),
        () => undefined,
      );
    tell(shotId);
    const timer = window.setInterval(() => tell(shotId), TELL_EVERY_MS);
    const leave = (): void => {
      const body = JSON.stringify({ client: WINDOW_ID, shotId: null, variantId: null });
      navigator.sendBeacon(routes.present, new Blob([body], { type: 'application/json' }));
    };

    window.addEventListener('pagehide', leave);
    return () => {
      window.clearInterval(timer);
      window.removeEventListener('pagehide', leave);
      tell(null);
    };
  }, [client, shotId, variantId]);
  const { data } = useQuery<readonly Present[]>({
    queryKey: keys.present(shotId),
    queryFn: () => [],
    enabled: false,
  });
  return (data ?? []).filter((one) => one.client !== WINDOW_ID);
}

export const useNewVariant = (shotId: number) =>
  useAsk(async (input: { note: string; from: number; recipe?: Recipe }) => {
    await flush(input.from);
    return ask<VariantInfo>(routes.variants(shotId), { body: input });
  }, shotTouched(shotId));

type ShotChange = Partial<Pick<ShotInfo, 'views' | 'reference'>>;

/** Saves a change of a shot's own; where another window saved first, both are merged and it is sent again. */
async function saveShot(shot: ShotInfo, change: ShotChange): Promise<ShotInfo> {
  let { revision } = shot;
  let began: ShotChange = { views: shot.views, reference: shot.reference };
  let wanted: ShotChange = { ...began, ...change };
  for (let tries = 0; ; tries++) {
    try {
      const headers = { 'If-Match': `"${revision}"` };
      return await ask<ShotInfo>(routes.shot(shot.id), { method: 'PATCH', body: wanted, headers });
    } catch (error) {
      if (!(error instanceof ApiError) || error.status !== 409 || tries === 5) throw error;
      const { views, reference, revision: newer } = error.current as ShotInfo;
      wanted = merge(began, wanted, { views, reference }).merged;
      began = { views, reference };
      revision = newer;
    }
  }
}

export const useChangeShot = (shot: ShotInfo) =>
  useAsk((change: ShotChange) => saveShot(shot, change), shotTouched(shot.id));

export const useChangeNote = (shotId: number) =>
  useAsk(
    ({ id, note }: { id: number; note: string }) =>
      ask<VariantInfo>(routes.variant(id), { method: 'PATCH', body: { note } }),
    shotTouched(shotId),
  );

/** Pictures that browsers read and the server does not are turned into PNG first. */
async function asPng(file: File): Promise<File> {
  if (file.type === 'image/png') return file;
  let bitmap: ImageBitmap;
  try {
    bitmap = await createImageBitmap(file);
  } catch {
    return file; // the server says what is wrong with it
  }

  const canvas = new OffscreenCanvas(bitmap.width, bitmap.height);
  canvas.getContext('2d')!.drawImage(bitmap, 0, 0);
  bitmap.close();
  return new File([await canvas.convertToBlob({ type: 'image/png' })], file.name.replace(/\.\w+$/, '.png'), {
    type: 'image/png',
  });
}

export const useUpload = (shotId: number) =>
  useAsk(async (input: { file: File; series?: string; frame?: number | null }) => {
    const form = new FormData();
    if (input.series) form.append('series', input.series);
    if (input.frame !== undefined && input.frame !== null) form.append('frame', String(input.frame));
    form.append('file', await asPng(input.file));
    return ask<AssetInfo>(routes.assets(shotId), { form });
  }, shotTouched(shotId));
