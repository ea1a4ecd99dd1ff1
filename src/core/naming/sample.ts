import { rate } from '../platform/timecode/rate';
import type { NamingClip } from './clip';

/** A clip to name, for tests. */
export const sampleClip = (original: string, given: Partial<NamingClip> = {}): NamingClip => ({
  id: original,
  job: 'SLW',
  kind: 'video',
  day: 1,
  date: '2026-05-05',
  camera: 'B',
  cameraName: 'Tarn T5',
  card: 'B001',
  rate: rate(25),
  size: [1920, 1080],
  original,
  recordedAt: '2026-05-05T10:00:00',
  startSeconds: 0,
  facts: {},
  keywords: [],
  current: original,
  ...given,
});
