/** The operations of the route card, in order. `later` says what is not there yet, and what helps until then. */
export interface Stage {
  name: string
  title: string
  later?: { will: string; until: string }
}

export const stages: Stage[] = [
  { name: 'stock', title: 'Take stock' },
  { name: 'lay-out', title: 'Lay out' },
  { name: 'feeds', title: 'Feeds and grounds' },
  { name: 'circuits', title: 'Circuits' },
  { name: 'size', title: 'Size' },
  { name: 'budget', title: 'Budget' },
  { name: 'make', title: 'Make' },
  { name: 'power-up', title: 'Power up' },
  { name: 'find-a-fault', title: 'Find a fault' },
  {
    name: 'hand-over',
    title: 'Hand over',
    later: {
      will: 'The history of changes, the record of proof and the pack for the glove box.',
      until: 'Power up keeps each circuit’s readings; the build can be exported as an open document.',
    },
  },
]
