/** The operations of the route card, in order. */
export interface Stage {
  name: string
  title: string
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
  { name: 'hand-over', title: 'Hand over' },
]
