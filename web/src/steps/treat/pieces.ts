import type { Treatment } from '../../api/client'
import { PANEL } from '../../room/soft-at'
import type { Made } from '../tape/material-picker'

/** A piece on the shelf: what it is made of and its usual size. */
export type PieceKind = { key: string; name: string; says: string; made: Made; start: Partial<Treatment> }

export const PIECES: readonly PieceKind[] = [
  {
    key: 'duvet',
    name: 'A duvet',
    says: 'at home · off the wall',
    made: { material: 'duvet-hung' },
    start: { kind: 'duvet', label: 'Duvet', width_m: 1.35, height_m: 1.8, z_m: 0.2 },
  },
  {
    key: 'panel',
    name: 'A frame, 10 cm',
    says: 'to make · voices and up',
    made: { absorber: PANEL },
    start: { kind: 'panel', label: 'Frame', width_m: 0.6, height_m: 1.2, z_m: 0.8 },
  },
  {
    key: 'thick',
    name: 'A frame, 20 cm',
    says: 'to make · reaches lower',
    made: { absorber: { ...PANEL, thickness_m: 0.2 } },
    start: { kind: 'panel', label: 'Thick frame', width_m: 0.6, height_m: 1.2, z_m: 0 },
  },
  {
    key: 'rug',
    name: 'A rug',
    says: 'at home · on the floor',
    made: { material: 'carpet-cotton' },
    start: { kind: 'rug', surface: 'floor', label: 'Rug', width_m: 1.4, height_m: 2 },
  },
  {
    key: 'own',
    name: 'Hang something of your own',
    says: 'any material and size',
    made: { absorber: PANEL },
    start: {},
  },
]
