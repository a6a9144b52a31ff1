/** Jobs of the demo, as they ship with the application. */
export const DEMO_JOBS = [
  { file: 'citrus-cavity', title: 'Citrus press, cavity insert' },
  { file: 'citrus-cavity-finished', title: 'Citrus press, cavity finished' },
  { file: 'citrus-core', title: 'Citrus press, core insert' },
  { file: 'trowel-grip', title: 'Trowel grip, die half' },
  { file: 'base-plate', title: 'Citrus press, base plate' },
  { file: 'corner-check', title: 'Corner check, square pocket' },
] as const;
