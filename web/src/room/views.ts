/** How the room is seen. */
export type View = 'plan' | 'walls' | 'section' | 'solid'

export const VIEWS: readonly { key: View; name: string; says: string }[] = [
  { key: 'plan', name: 'Floor', says: 'Drag the marks, or use the arrow keys.' },
  { key: 'walls', name: 'Walls', says: 'Each wall as you see it from inside.' },
  { key: 'section', name: 'Section', says: 'Cut upright through the performer.' },
  { key: 'solid', name: 'Model', says: 'The room to turn in your hand.' },
]
export const isView = (text: string | null): text is View => VIEWS.some((v) => v.key === text)
