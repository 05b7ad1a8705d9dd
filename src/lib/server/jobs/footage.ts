import type { NewJob } from './queue';

/** The work of picturing the first and last frames of a clip's spans; `renditions/ends` does it. */
export const endsOf = (clipId: string): NewJob => ({
  ...{ task: 'ends', title: 'Picturing spans' },
  ...{ subject: clipId, itemId: clipId },
});

/** The work of taking in the markers a clip's XMP tells of; `spans/markers` does it. */
export const markersOf = (clipId: string): NewJob => ({
  ...{ task: 'markers', title: 'Reading markers' },
  ...{ subject: clipId, itemId: clipId },
});
