/** What the colours of the bench can mean. A further lens is one more line here, its legend in `legends`, and what it asks of the planner in `lensData.ts`. */
export const LENSES = [
  { id: 'part', name: 'Part', key: '1', caption: 'part and block' },
  { id: 'steel', name: 'Steel', key: '2', caption: '' },
  { id: 'leftover', name: 'Leftover', key: '3', caption: '' },
  { id: 'region', name: 'Region of the step', key: '4', caption: 'where the chosen step would cut' },
  {
    id: 'reach',
    name: 'Needed stick-out',
    key: '5',
    caption: 'the part, by how far the chosen cutter has to stand out',
  },
  { id: 'contacts', name: 'Contacts', key: '6', caption: '' },
  { id: 'ridges', name: 'Ridges', key: '7', caption: 'ridges that the chosen step leaves, along the part’s normal' },
  {
    id: 'load',
    name: 'Load',
    key: '8',
    caption: 'how hard the steel was cut, at the most, by the step at the playhead',
  },
] as const;

export type Lens = (typeof LENSES)[number]['id'];
