// Server data through TanStack Query, kept fresh by the server's events.
import { useEffect } from 'react';
import {
  keepPreviousData,
  useMutation,
  useQueries,
  useQuery,
  useQueryClient,
  type QueryClient,
  type UseMutationResult,
  type UseQueryResult,
} from '@tanstack/react-query';
import type { ChannelNames } from '@bramblemist/core/cache/channel-names';
import type { Combine } from '@bramblemist/core/combine/combine';
import { canonicalText } from '@bramblemist/core/recipe/document';
import type { Look } from '@bramblemist/core/look/look';
import type { SavingsSheet } from '@bramblemist/core/look/savings';
import { changedSince } from '@bramblemist/core/cache/currency';
import type { Refine } from '@bramblemist/core/cache/refine-settings';
import type { ToolStep } from '@bramblemist/core/volume/tools/tools';
import type { ParticleAdvection } from '@bramblemist/core/analysis/particle-settings';
import type { Varied } from '@bramblemist/core/analysis/sheet';
import type { Recipe } from '@bramblemist/core/recipe/types';
import type { ProductionCard, ShotCard } from '@bramblemist/contracts/payloads/board';
import type { CompWritten, MovieWanted, RenderFeed } from '@bramblemist/contracts/payloads/comp';
import type { Present } from '@bramblemist/contracts/payloads/events';
import type {
  ChannelPreset,
  FolderState,
  PackageWanted,
  PackingInfo,
} from '@bramblemist/contracts/payloads/hand-over';
import type { JobInfo } from '@bramblemist/contracts/payloads/jobs';
import type {
  BroughtBack,
  BakeInfo,
  CostInfo,
  FrameInfo,
  RenderCostInfo,
  OutOfDate,
  VolumesFolder,
} from '@bramblemist/contracts/payloads/made';
import type { ReviewInfo, ReviewNoteInfo } from '@bramblemist/contracts/payloads/review';
import type { AssetInfo, ShotInfo, VariantInfo } from '@bramblemist/contracts/payloads/shot';
import type { FileInfo, StorageInfo, StoredKind } from '@bramblemist/contracts/payloads/storage';
import { routes } from '@bramblemist/contracts/routes';
import { merge } from '@bramblemist/core/recipe/merge';
import { ApiError, ask, send, WINDOW_ID } from './api';
import { flush, recover, savedElsewhere, tryAgain, useBench } from './bench';
import { listen, type Heard } from './events';

const keys = {
  files: ['files'],
  board: ['board'],
  shot: (id: number) => ['shot', id],
  jobs: ['jobs'],
  storage: ['storage'],
  present: (id: number) => ['present', id],
  frames: (id: number) => ['bake-frames', id],
  review: (shotId: number) => ['review', shotId],
  packing: (bakeId: number) => ['packing', bakeId],
} as const;

export function useBoard(): UseQueryResult<ProductionCard[]> {
  return useQuery({ queryKey: keys.board, queryFn: () => ask<ProductionCard[]>(routes.productions) });
}

export function useShot(id: number): UseQueryResult<ShotInfo> {
  return useQuery({ queryKey: keys.shot(id), queryFn: () => ask<ShotInfo>(routes.shot(id)), retry: 1 });
}

export function useJobs(): UseQueryResult<JobInfo[]> {
  return useQuery({ queryKey: keys.jobs, queryFn: () => ask<JobInfo[]>(routes.jobs) });
}

const NO_FRAMES: readonly FrameInfo[] = [];
const dataOf = (results: readonly { readonly data?: readonly FrameInfo[] }[]): (readonly FrameInfo[])[] =>
  results.map((r) => r.data ?? NO_FRAMES);

/** What the run said of the frames of bakes, in their order; asked for anew as more of them are finished. */
export function useBakeFrames(bakes: readonly (BakeInfo | null)[]): readonly (readonly FrameInfo[])[] {
  return useQueries({
    queries: bakes.map((b) => ({
      queryKey: [...keys.frames(b?.id ?? 0), b?.frames.length ?? 0],
      queryFn: () => ask<FrameInfo[]>(routes.bakeFrames(b!.id)),
      enabled: b !== null && b.frames.length > 0,
      staleTime: Infinity,
      placeholderData: keepPreviousData,
    })),
    combine: dataOf,
  });
}

export function useFiles(): UseQueryResult<FileInfo[]> {
  return useQuery({ queryKey: keys.files, queryFn: () => ask<FileInfo[]>(routes.files) });
}

/** Brings a file to the shelf; `onPart` hears how much of it has been sent, 0…1. */
export const useBringFile = () =>
  useAsk(
    ({ file, onPart }: { file: File; onPart: (part: number) => void }) => {
      const form = new FormData();
      form.append('file', file);
      return send<FileInfo>(routes.files, form, onPart);
    },
    (c) => void c.invalidateQueries({ queryKey: keys.files }),
  );

/** Measured once for each recipe and size; an older answer stands until the new one is there. */
export function useCost(recipe: Recipe, voxelSizeM: number): UseQueryResult<CostInfo> {
  return useQuery({
    queryKey: ['cost', canonicalText(recipe), voxelSizeM],
    queryFn: () => ask<CostInfo>(routes.cost, { body: { recipe, voxelSizeM } }),
    staleTime: Infinity,
    retry: false,
    placeholderData: (before) => before,
  });
}

/** What uses the open variant's documents on the server waits until they are saved, or says why it cannot. */
const whenSaved =
  <I, O>(make: (input: I) => Promise<O>) =>
  async (input: I): Promise<O> => {
    await flush();
    return make(input);
  };

function useAsk<I, O>(
  make: (input: I) => Promise<O>,
  touched: (client: QueryClient) => void,
): UseMutationResult<O, Error, I> {
  const client = useQueryClient();
  return useMutation({ mutationFn: make, onSuccess: () => touched(client) });
}

const shotTouched =
  (id: number) =>
  (client: QueryClient): void => {
    void client.invalidateQueries({ queryKey: keys.shot(id) });
    void client.invalidateQueries({ queryKey: keys.board });
  };

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

export function useReview(shotId: number): UseQueryResult<ReviewInfo> {
  return useQuery({ queryKey: keys.review(shotId), queryFn: () => ask<ReviewInfo>(routes.review(shotId)) });
}

const reviewTouched =
  (shotId: number) =>
  (client: QueryClient): void =>
    void client.invalidateQueries({ queryKey: keys.review(shotId) });
export const useAddReviewNote = (shotId: number) =>
  useAsk(
    (body: Omit<ReviewNoteInfo, 'id' | 'done' | 'createdAt'>) =>
      ask<ReviewNoteInfo>(routes.review(shotId), { body }),
    reviewTouched(shotId),
  );
export const useChangeReviewNote = (shotId: number) =>
  useAsk(
    ({ id, ...body }: { id: number; done?: boolean; text?: string }) =>
      ask<ReviewNoteInfo>(routes.reviewNote(id), { method: 'PATCH', body }),
    reviewTouched(shotId),
  );
export const useRemoveReviewNote = (shotId: number) =>
  useAsk((id: number) => ask<object>(routes.reviewNote(id), { method: 'DELETE' }), reviewTouched(shotId));

/** What a bake can hand over; asked for anew whenever more of it is there. */
export function usePacking(bakeId: number | null, there: string): UseQueryResult<PackingInfo> {
  return useQuery({
    queryKey: [...keys.packing(bakeId ?? 0), there],
    queryFn: () => ask<PackingInfo>(routes.packing(bakeId!)),
    enabled: bakeId !== null,
    placeholderData: keepPreviousData,
  });
}

export const useNewPackage = (bakeId: number) =>
  useAsk(
    (body: PackageWanted & { names: string; note: string }) =>
      ask<{ id: number; version: number }>(routes.packages(bakeId), { body }),
    (c) => void c.invalidateQueries({ queryKey: keys.packing(bakeId) }),
  );

/** A package in the server’s folder; how far it is comes by itself. */
export const usePackageFolder = () => ({
  write: useAsk(
    (id: number) => ask<FolderState>(routes.packageFolder(id), { method: 'POST' }),
    (c) => void c.invalidateQueries({ queryKey: ['packing'] }),
  ),
  stop: useAsk(
    (id: number) => ask<FolderState | null>(routes.packageFolder(id), { method: 'DELETE' }),
    (c) => void c.invalidateQueries({ queryKey: ['packing'] }),
  ),
});

export function useChannelPresets(bakeId: number) {
  const touched = (c: QueryClient): void => void c.invalidateQueries({ queryKey: keys.packing(bakeId) });
  return {
    save: useAsk(
      (body: { name: string; channels: ChannelNames }) =>
        ask<ChannelPreset>(routes.channelPresets(), { body }),
      touched,
    ),
    remove: useAsk((id: number) => ask<object>(routes.channelPreset(id), { method: 'DELETE' }), touched),
  };
}

const boardTouched = (client: QueryClient): void => void client.invalidateQueries({ queryKey: keys.board });
export const useNewProduction = () =>
  useAsk((name: string) => ask<{ id: number }>(routes.productions, { body: { name } }), boardTouched);
type Named = { readonly name?: string; readonly note?: string; readonly archived?: boolean };
export const useChangeProduction = () =>
  useAsk(
    ({ id, ...body }: Named & { id: number }) => ask<void>(routes.production(id), { method: 'PATCH', body }),
    boardTouched,
  );
export type CardChange = Named & Partial<Pick<ShotCard, 'status' | 'assignee' | 'due'>>;
export const useChangeCard = () =>
  useAsk(
    ({ id, ...body }: CardChange & { id: number }) => ask<void>(routes.card(id), { method: 'PATCH', body }),
    (c) => boardTouched(c),
  );

/** Puts the shots of a production into an order, on the page at once. */
export function useOrderShots(productionId: number): UseMutationResult<void, Error, readonly ShotCard[]> {
  const client = useQueryClient();
  return useMutation({
    mutationFn: (shots) =>
      ask<void>(routes.shotOrder(productionId), { method: 'PUT', body: { shots: shots.map((s) => s.id) } }),
    onMutate: (shots) => {
      client.setQueryData<ProductionCard[]>(keys.board, (board) =>
        board?.map((p) => (p.id === productionId ? { ...p, shots: [...shots] } : p)),
      );
    },
    onSettled: () => boardTouched(client),
  });
}

export const useNewShot = () =>
  useAsk(
    (input: { productionId: number; name: string; example?: string }) =>
      ask<{ id: number }>(routes.shots, { body: input }),
    boardTouched,
  );
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
export const useStartBake = (shotId: number) =>
  useAsk(
    whenSaved((input: { variantId: number; voxelSizeM: number; frames: { first: number; last: number } }) =>
      ask<{ id: number }>(routes.bakes(input.variantId), {
        body: { voxelSizeM: input.voxelSizeM, frames: input.frames },
      }),
    ),
    shotTouched(shotId),
  );
const useStart = <B extends object>(shotId: number, path: (id: number) => string) =>
  useAsk(
    ({ bakeId, ...body }: { bakeId: number } & B) => ask<{ id: number }>(path(bakeId), { body }),
    shotTouched(shotId),
  );
export const useStartTool = (shotId: number) =>
  useStart<{ steps: readonly ToolStep[] }>(shotId, routes.tools);
export const useStartRefine = (shotId: number) => useStart<{ settings: Refine }>(shotId, routes.refines);
export const useStartParticles = (shotId: number) =>
  useStart<{ settings: ParticleAdvection; format: 'ply' | 'csv' }>(shotId, routes.particles);
export const useVerify = (shotId: number) => useStart<object>(shotId, routes.verify);
export const useLock = (shotId: number) =>
  useAsk(
    ({ bakeId, locked }: { bakeId: number; locked: boolean }) =>
      ask<object>(routes.bake(bakeId), { method: 'PATCH', body: { locked } }),
    shotTouched(shotId),
  );

/**
 * Volumes from elsewhere: a .vdb file or a ZIP of them, or a name in the folder that the server may read; or
 * the result of a bundle.
 */
type Brought = { readonly id: number } | (BroughtBack & { readonly isResult: true });
export const useBringVolumes = (shotId: number) =>
  useAsk(({ file, name, onPart }: { file?: File; name?: string; onPart?: (part: number) => void }) => {
    if (!file) return ask<Brought>(routes.bring(shotId), { body: { name } });
    const form = new FormData();
    form.append('file', file);
    return send<Brought>(routes.bring(shotId), form, onPart ?? (() => {}));
  }, shotTouched(shotId));
export function useVolumesFolder(): UseQueryResult<VolumesFolder> {
  return useQuery({ queryKey: ['volumes-folder'], queryFn: () => ask<VolumesFolder>(routes.volumesFolder) });
}

export function useStorage(): UseQueryResult<StorageInfo> {
  return useQuery({ queryKey: keys.storage, queryFn: () => ask<StorageInfo>(routes.storage), staleTime: 0 });
}

/** Clears or brings back, or empties the bin without an item; everything that shows it is asked for again. */
export const useKeeping = () =>
  useAsk(
    ({ act, kind, id }: { act: 'clear' | 'restore' | 'empty'; kind?: StoredKind; id?: number }) =>
      ask<StorageInfo>(act === 'empty' ? routes.emptyBin : routes[act](kind!, id!), { body: {} }),
    (c) => void c.invalidateQueries(),
  );
export function useJobLog(id: number, open: boolean): UseQueryResult<string> {
  return useQuery({
    queryKey: ['job-log', id],
    enabled: open,
    refetchInterval: open ? 2000 : false,
    queryFn: async () => (await fetch(routes.jobLog(id))).text(),
  });
}

export const useStartSheet = (shotId: number) =>
  useAsk(
    whenSaved(
      ({
        variantId,
        ...body
      }: {
        variantId: number;
        varied: readonly Varied[];
        voxelSizeM: number;
        last: number;
      }) => ask<{ id: number }>(routes.sheets(variantId), { body }),
    ),
    shotTouched(shotId),
  );
export const useStartRender = (shotId: number) =>
  useAsk(
    whenSaved((input: { bakeId: number; look: unknown; frames: { first: number; last: number } }) =>
      ask<{ id: number }>(routes.renders(input.bakeId), { body: { look: input.look, frames: input.frames } }),
    ),
    shotTouched(shotId),
  );
/** What a render of all frames of a bake will take. */
export function useRenderCost(bakeId: number | undefined, look: Look): UseQueryResult<RenderCostInfo> {
  return useQuery({
    queryKey: ['render-cost', bakeId, canonicalText(look)],
    queryFn: () => ask<RenderCostInfo>(routes.renderCost(bakeId!), { body: { look } }),
    enabled: bakeId !== undefined,
    staleTime: Infinity,
    retry: false,
  });
}

export const useStartSavings = (shotId: number) =>
  useAsk(
    ({ bakeId, ...wanted }: { bakeId: number; look: Look; frame: number }) =>
      ask<{ id: number }>(routes.savings(bakeId), { body: wanted }),
    shotTouched(shotId),
  );

/** A sheet of savings as it lies with its bake. */
export interface MeasuredSheet extends SavingsSheet {
  readonly frame: number;
  readonly look: Look;
}
export const useSavings = (id: number, isThere: boolean): UseQueryResult<MeasuredSheet> =>
  useQuery({
    queryKey: ['savings', id],
    queryFn: () => ask<MeasuredSheet>(routes.savingsSheet(id)),
    enabled: isThere,
    staleTime: Infinity,
  });

export const useStartMovie = (shotId: number) =>
  useAsk(
    ({ of, id, ...wanted }: { of: 'renders' | 'combines'; id: number } & MovieWanted) =>
      ask<{ id: number }>(routes.movies(of, id), { body: wanted }),
    shotTouched(shotId),
  );
export const useStartCombine = (shotId: number) =>
  useAsk(
    whenSaved((input: { settings: Combine; frames: { first: number; last: number }; output: CompWritten }) =>
      ask<{ id: number }>(routes.combines(shotId), { body: input }),
    ),
    shotTouched(shotId),
  );
export const usePutAside = (shotId: number) =>
  useAsk(
    (input: { settings: Combine; note: string }) =>
      ask<{ id: number; number: number }>(routes.comps(shotId), { body: input }),
    shotTouched(shotId),
  );
export const useNoteComp = (shotId: number) =>
  useAsk(
    ({ id, note }: { id: number; note: string }) => ask(routes.comp(id), { method: 'PATCH', body: { note } }),
    shotTouched(shotId),
  );
export const useDropComp = (shotId: number) =>
  useAsk((id: number) => ask(routes.comp(id), { method: 'DELETE' }), shotTouched(shotId));

/** What a render gives to a comp; asked again while it may be made. */
export const useRenderFeed = (id: number): UseQueryResult<RenderFeed> =>
  useQuery({
    queryKey: ['render-feed', id],
    queryFn: () => ask<RenderFeed>(routes.renderFeed(id)),
    enabled: id > 0,
    staleTime: 10_000,
    retry: false,
  });
const useJobAct = (path: (id: number) => string) =>
  useAsk(
    (id: number) => ask<{ state: string }>(path(id), { method: 'POST', body: {} }),
    (c) => void c.invalidateQueries(),
  );
export const useStopJob = () => useJobAct(routes.stopJob);
export const usePauseJob = () => useJobAct(routes.pauseJob);
export const useGoOnJob = () => useJobAct(routes.goOnJob);
export const useMoreSubsteps = () => useJobAct(routes.moreSubstepsOfJob);
export const useFirstJob = () => useJobAct(routes.firstJob);

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

/**
 * Listens as long as the page lives; jobs are updated in place, shots fetched again at most twice a second.
 */
export function useServerEvents(): void {
  const client = useQueryClient();
  useEffect(() => {
    const waiting = new Map<number, { readonly timer: number; board: boolean }>();
    const fetchSoon = (shotId: number, board: boolean): void => {
      const due = waiting.get(shotId);
      if (due) {
        // a job that ends while its last frame is waited for
        due.board ||= board;
        return;
      }

      const again = (): void => {
        const { board: wanted } = waiting.get(shotId)!;
        waiting.delete(shotId);
        void client.invalidateQueries({ queryKey: keys.shot(shotId) });
        if (!wanted) return;
        void client.invalidateQueries({ queryKey: keys.board });
        void client.invalidateQueries({ queryKey: keys.review(shotId) });
      };

      waiting.set(shotId, { timer: window.setTimeout(again, 500), board });
    };

    const hear = (event: Heard): void => {
      switch (event.kind) {
        case 'again':
          tryAgain();
          return void client.invalidateQueries();
        case 'present':
          return void client.setQueryData(keys.present(event.shotId), event.present);
        case 'board':
          void client.invalidateQueries({ queryKey: ['review'] });
          return void client.invalidateQueries({ queryKey: keys.board });
        case 'package':
          return void client.invalidateQueries({ queryKey: ['packing'] });
        case 'review':
          return void client.invalidateQueries({ queryKey: keys.review(event.shotId) });
        case 'document':
          if (event.client === WINDOW_ID) return;
          if (event.variantId !== null)
            void savedElsewhere(event.variantId, event.revision).catch(() => undefined);
          return fetchSoon(event.shotId, false);
        case 'job':
          client.setQueryData<JobInfo[]>(keys.jobs, (old) =>
            old ? [event.job, ...old.filter((j) => j.id !== event.job.id)].sort((a, b) => b.id - a.id) : old,
          );
          fetchSoon(event.shotId, event.job.state !== 'running');
      }
    };

    const stop = listen(hear);
    void recover();
    // what is saved by itself is what a variant is opened with again
    const end = useBench.subscribe(({ saved }, before) => {
      if (!saved || saved === before.saved) return;
      client.setQueriesData<ShotInfo>({ queryKey: ['shot'] }, (shot) =>
        shot?.variants.some((v) => v.id === saved.id)
          ? {
              ...shot,
              variants: shot.variants.map((v) => (v.id === saved.id ? saved : v)),
              bakes: shot.bakes.map((b) =>
                b.variantId === saved.id ? { ...b, outOfDate: outOfDateNow(b, saved) } : b,
              ),
            }
          : shot,
      );
    });
    return () => {
      end();
      stop();
      waiting.forEach(({ timer }) => clearTimeout(timer));
    };
  }, [client]);
}

/**
 * What has changed since a bake, with the moment of each change: that of the saving for those that are new.
 */
function outOfDateNow(bake: BakeInfo, { recipe, changedAt }: VariantInfo): OutOfDate[] {
  if (bake.made?.kind === 'brought') return [];
  return changedSince(bake.recipe, recipe).map((d) => {
    const known = bake.outOfDate.find(
      (o) => o.path === d.path && canonicalText(o.to) === canonicalText(d.to),
    );
    return known ?? { ...d, at: changedAt };
  });
}
