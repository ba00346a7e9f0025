import { useQuery } from '@tanstack/react-query'
import { useEffect, useMemo, useState } from 'react'
import { drawing } from '../api/queries'
import { download } from '../plots/save'
import { useRoom } from '../state/room'
import { Button } from '../ui/button'
import { Sheet } from '../ui/dialog'
import { Failed } from '../ui/notice'
import { Segmented } from '../ui/segmented'

const VIEWS = [
  { key: 'plan', name: 'Plan' },
  { key: 'walls', name: 'Walls' },
  { key: 'section-x', name: 'Section, long' },
  { key: 'section-y', name: 'Section, across' },
  { key: 'model', name: 'Model' },
] as const
type View = (typeof VIEWS)[number]['key']

/** The drawing to print or keep: previewed, as SVG at 1:25 or DXF in metres with named layers. */
export function DrawingSheet({ onClose }: { onClose: () => void }) {
  const { document: room, active } = useRoom()
  const [view, setView] = useState<View>('plan')
  const svg = useQuery({
    queryKey: ['drawing', room, active.id, view],
    queryFn: () => drawing(room, active.id, view, 'svg'),
    retry: false,
  })
  const address = useMemo(
    () => (svg.data ? URL.createObjectURL(new Blob([svg.data], { type: 'image/svg+xml' })) : null),
    [svg.data],
  )
  useEffect(() => () => void (address && URL.revokeObjectURL(address)), [address])
  const name = `${room.name.toLowerCase().replace(/[^a-z0-9]+/g, '-')}-${view}`
  const [trouble, setTrouble] = useState<unknown>(null)
  const saveDxf = async () => {
    try {
      download(new Blob([await drawing(room, active.id, view, 'dxf')], { type: 'image/vnd.dxf' }), `${name}.dxf`)
    } catch (error) {
      setTrouble(error)
    }
  }
  const failed = svg.error ?? trouble
  return (
    <Sheet open onClose={onClose} title="The drawing, to print or keep" wide>
      <div className="space-y-3">
        <div className="print:hidden">
          <Segmented small label="View" value={view} options={VIEWS} onChange={setView} />
        </div>
        <Failed error={failed} />
        <div className="h-[46dvh] rounded-xl border border-line bg-white p-2 print:h-auto print:border-0">
          {address ? (
            <img
              src={address}
              alt={`${room.name}, ${view} to scale`}
              className="print-sheet size-full object-contain"
            />
          ) : (
            <p role="status" className="text-black">
              Drawing
            </p>
          )}
        </div>
        <p className="text-small text-ink-2 print:hidden">
          SVG prints at 1:25 on paper of its size. DXF is in metres, with layers for walls, openings, furniture,
          treatment, marks and sizes.
        </p>
        <div className="flex flex-wrap justify-end gap-2 print:hidden">
          <Button onClick={onClose}>Close</Button>
          <Button disabled={!svg.data} onClick={() => void saveDxf()}>
            Save DXF
          </Button>
          <Button
            disabled={!svg.data}
            onClick={() => download(new Blob([svg.data!], { type: 'image/svg+xml' }), `${name}.svg`)}
          >
            Save SVG
          </Button>
          <Button look="main" disabled={!address} onClick={() => print()}>
            Print
          </Button>
        </div>
      </div>
    </Sheet>
  )
}
