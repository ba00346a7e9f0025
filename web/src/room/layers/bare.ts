import type { Layer } from './layer'

export const bare: Layer = { key: 'bare', name: 'Bare', says: 'Drag the marks, or use the arrow keys.' }
