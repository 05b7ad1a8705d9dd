import { picturesOfPage } from '#core/uploads/pagePictures';
import { embeddedPreview } from '../intake/glance';
import { drawDrawing, drawSpecimen } from '../renditions/drawing';
import { checkSheetFile } from '../sheets/read';
import { templateXlsx } from '../sheets/template';
import { unzip } from '../sheets/unzip';

/** Everything that is parsed apart. Inputs and answers pass between processes: plain data only. */
export const TASKS = {
  page: async ({ html, base, most }: { html: string; base: string; most: number }) =>
    picturesOfPage(html, base).slice(0, most),
  glimpse: async ({ path }: { path: string }) => embeddedPreview(path),
  sheet: checkSheetFile,
  template: async (_: null) => templateXlsx(),
  unzip,
  drawing: drawDrawing,
  specimen: drawSpecimen,
};
export type ApartTasks = typeof TASKS;
