// A job in a few words: its state, how fast it goes, what is left.
import type { ReactNode } from 'react';
import type { JobInfo } from '@bramblemist/contracts/payloads/jobs';
import { bytes, duration, Mark } from './ui';

export function jobMark(job: JobInfo | null): ReactNode {
  if (!job) return null;
  if (job.state === 'done') return <Mark state="well">done</Mark>;
  if (job.state === 'running') return <Mark state="busy">running</Mark>;
  if (job.state === 'queued') return <Mark state="idle">waiting</Mark>;
  if (job.state === 'paused') return <Mark state="stale">paused</Mark>;
  if (job.state === 'stopped') return <Mark state="stale">stopped</Mark>;
  return <Mark state="trouble">failed</Mark>;
}

/** What is left at the pace since it was started last; empty where that cannot be told. */
export function timeLeft(job: JobInfo): string {
  if (job.state !== 'running' || !job.rate || job.done < 2) return '';
  return `${duration((job.total - job.done) / job.rate)} left`;
}

/** Pace and memory. */
export function pace(job: JobInfo): string {
  if (job.state !== 'running') return '';
  const { rate, memory } = job;
  const pace = (r: number): string =>
    r >= 1 ? `${r.toFixed(1)} frames a second` : `${(1 / r).toFixed(1)} s a frame`;
  const speed = rate ? pace(rate) : '';
  return [speed, memory ? bytes(memory) : ''].filter(Boolean).join(' · ');
}
