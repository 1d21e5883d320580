// The queue.
import { useQuery, type UseQueryResult } from '@tanstack/react-query';
import type { JobInfo } from '@bramblemist/contracts/payloads/jobs';
import { routes } from '@bramblemist/contracts/routes';
import { ask } from '../api';
import { keys, useAsk } from './ask';

export function useJobs(): UseQueryResult<JobInfo[]> {
  return useQuery({ queryKey: keys.jobs, queryFn: () => ask<JobInfo[]>(routes.jobs) });
}

export function useJobLog(id: number, open: boolean): UseQueryResult<string> {
  return useQuery({
    queryKey: ['job-log', id],
    enabled: open,
    refetchInterval: open ? 2000 : false,
    queryFn: async () => (await fetch(routes.jobLog(id))).text(),
  });
}

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
