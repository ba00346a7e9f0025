import { useDesk } from '../../rooms/use-desk'
import { usePlaceMap } from '../../state/place-map'
import { useRoom } from '../../state/room'
import { Button } from '../../ui/button'
import { Failed } from '../../ui/notice'

/** The best three places of the floor, each with why and a way to try it. */
export function BestPlaces() {
  const { tryOut, trying } = useRoom()
  const { layer, setLayer } = useDesk()
  const { map, error } = usePlaceMap()
  return (
    <section aria-labelledby="best-places" data-testid="best-places">
      <div className="flex items-baseline justify-between gap-2">
        <h2 id="best-places" className="text-head">
          Best places
        </h2>
        {layer.key === 'places' ? null : (
          <Button small look="quiet" onClick={() => setLayer('places')}>
            Show the map
          </Button>
        )}
      </div>
      <Failed error={error} />
      <p className="min-h-[2.6em] text-note leading-snug text-ink-2" aria-live="polite">
        {map ? map.sentence : 'Trying every spot of the floor'}
      </p>
      <ol className="min-h-[9rem]">
        {map?.best.map((spot, i) => {
          const title = `Stand at ${spot.at.map((v) => v.toFixed(2)).join(', ')} m`
          return (
            <li key={i} className="flex items-start gap-2.5 border-t border-line py-1.5 first:border-0">
              <span className="w-4 shrink-0 text-center font-display font-semibold text-felt">{i + 1}</span>
              <p className="min-w-0 flex-1 text-small leading-snug">
                {spot.reasons.join(' ')}{' '}
                <span className="text-ink-2">
                  {spot.bounce_db.toFixed(1).replace('-', '−')} dB over the room, rings {spot.boom_s.toFixed(2)} s
                  {spot.hush_db === null ? '' : `, noise ${spot.hush_db.toFixed(0)} dB under you`}, all predicted.
                </span>
              </p>
              {trying?.trying?.title === title ? (
                <span className="rounded-full bg-change px-3 py-1 text-small font-semibold text-on-change">Trying</span>
              ) : (
                <Button small onClick={() => tryOut({ kind: 'place', title, edits: spot.edits })}>
                  Try
                </Button>
              )}
            </li>
          )
        })}
      </ol>
    </section>
  )
}
