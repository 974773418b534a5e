// Every page that can be gone to from anywhere, by what one goes there for.
export interface Place {
  to: string
  name: string
  /** What it is for, and the words by which it is looked for. */
  says: string
  /** Only for who may decide about devices and backups. */
  owner?: boolean
}

export const GROUPS: { name: string; places: Place[] }[] = [
  {
    name: 'Work',
    places: [
      { to: '/', name: 'Workshop', says: 'All printers, and what is next at each' },
      {
        to: '/files',
        name: 'Before a print',
        says: 'Drop the file of the slicer: what it will do on this bed, G-code',
      },
      {
        to: '/prints',
        name: 'Prints',
        says: 'What runs, when to look, what came of it: held, let go',
      },
      { to: '/cases', name: 'Cases', says: 'A first layer that does not stick: find out why' },
      { to: '/logbook', name: 'Logbook', says: 'What was measured, turned, changed and noted' },
    ],
  },
  {
    name: 'Look up',
    places: [
      {
        to: '/prints/results',
        name: 'What came of the prints',
        says: 'Success by surface, material, temperature, printer and month',
      },
      { to: '/table', name: 'Surfaces and materials', says: 'Temperatures, what holds on what, cleaning' },
      { to: '/part', name: 'Check a part', says: 'Brim, speed, width, fan, and what a failed print costs' },
      { to: '/extrusion', name: 'Extrusion sums', says: 'Steps a millimetre, line width and flow' },
      { to: '/terms', name: 'Terms', says: 'What a word means, in one sentence' },
      { to: '/beliefs', name: 'What Finchwort believes', says: 'How often each cause is behind a complaint' },
    ],
  },
  {
    name: 'This computer',
    places: [
      { to: '/devices', name: 'Devices', says: 'Phones and tablets that may come in', owner: true },
      { to: '/backups', name: 'Backups', says: 'Copies of all records', owner: true },
      { to: '/printers/new', name: 'Add a printer', says: 'Set up another bed' },
    ],
  },
]

export const placesFor = (owner: boolean): { name: string; places: Place[] }[] =>
  GROUPS.map(({ name, places }) => ({ name, places: places.filter((one) => owner || !one.owner) }))
