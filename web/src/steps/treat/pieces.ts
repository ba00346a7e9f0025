import type { Schemas, Treatment } from '../../api/client'
import { PANEL } from '../../room/soft-at'
import type { Made } from '../tape/material-picker'

/** A piece on its way to a surface: what it is made of and its usual size. */
export type PieceKind = {
  key: string
  name: string
  made: Made
  start: Partial<Treatment>
  cautions: readonly string[]
}

const MOUTH_M = 0.8

export function pieceKind(piece: Schemas['PieceAnswer']): PieceKind {
  const made: Made = piece.absorber ? { absorber: piece.absorber } : { material: piece.material ?? 'mineral-wool-50' }
  const flat = piece.mount === 'floor' || piece.mount === 'ceiling'
  return {
    key: piece.key,
    name: piece.label,
    made,
    cautions: piece.cautions,
    start: {
      kind: piece.kind,
      label: piece.label,
      piece: piece.key,
      width_m: piece.width_m,
      height_m: piece.height_m,
      ...(flat ? { surface: piece.mount } : {}),
      ...(piece.mount === 'corner'
        ? { x_m: 0, z_m: 0 }
        : piece.mount === 'wall'
          ? { z_m: piece.height_m > 1.5 ? 0.2 : MOUTH_M }
          : {}),
    },
  }
}

export const OWN: PieceKind = {
  key: 'own',
  name: 'Hang something of your own',
  made: { absorber: PANEL },
  start: {},
  cautions: [],
}
