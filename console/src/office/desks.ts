/** The desks of the office, by what they are about, each with the right that it needs. */
export const desks = [
  {
    name: 'Reports',
    desks: [
      { id: 'drafts', name: 'Drafts', right: 'write' },
      { id: 'reports', name: 'Reports', right: 'write' },
      { id: 'shared', name: 'Shared parameters', right: 'write' },
      { id: 'glossary', name: 'Glossary', right: 'write' },
      { id: 'shelf', name: 'Documents', right: 'catalog' },
      { id: 'bundles', name: 'Bundles', right: 'catalog' },
      { id: 'retired', name: 'Retired', right: 'catalog' },
    ],
  },
  {
    name: 'Readers',
    desks: [
      { id: 'open', name: 'Open to', right: 'open' },
      { id: 'feedback', name: 'Feedback', right: 'catalog' },
      { id: 'people', name: 'People', right: 'people' },
      { id: 'groups', name: 'Groups', right: 'people' },
    ],
  },
  {
    name: 'Service',
    desks: [
      { id: 'sources', name: 'Sources', right: 'sources' },
      { id: 'health', name: 'Health', right: 'write' },
      { id: 'days', name: 'Days off', right: 'catalog' },
      { id: 'space', name: 'Space', right: 'people' },
      { id: 'backups', name: 'Back-ups', right: 'people' },
      { id: 'audit', name: 'Audit', right: 'people' },
    ],
  },
] as const

export type DeskID = (typeof desks)[number]['desks'][number]['id']
