import type { Job } from '../../../api/client';

/** Is it waiting or being made? */
export const isBusy = (job: Job) => job.state === 'running' || job.state === 'waiting';

/** What there is to see of a job now: the finished picture, or what it has come to so far. */
export function pictureOf(job: Job): string | null {
  if (job.kind !== 'proof') return null;
  if (job.state === 'done') return `/api/work/${job.id}/files/picture.png?made=${job.made}`;
  return job.state === 'running' && job.pictures > 0 ? `/api/work/${job.id}/growing?n=${job.pictures}` : null;
}

/** Seconds in words. */
export function timeLeft(seconds: number): string {
  if (seconds < 5) return 'a few seconds left';
  if (seconds < 90) return `about ${Math.round(seconds / 5) * 5} s left`;
  return `about ${Math.round(seconds / 60)} min left`;
}
