// What is known is kept fresh by the server’s events.
import { useEffect } from 'react';
import { useQueryClient } from '@tanstack/react-query';
import { canonicalText } from '@bramblemist/core/recipe/document';
import { changedSince } from '@bramblemist/core/cache/currency';
import type { JobInfo } from '@bramblemist/contracts/payloads/jobs';
import type { BakeInfo, OutOfDate } from '@bramblemist/contracts/payloads/made';
import type { ShotInfo, VariantInfo } from '@bramblemist/contracts/payloads/shot';
import { WINDOW_ID } from '../api';
import { recover, savedElsewhere, tryAgain, useBench } from '../bench';
import { listen, type Heard } from '../events';
import { keys } from './ask';

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
