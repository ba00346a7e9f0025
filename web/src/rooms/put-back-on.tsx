import { useEffect, useState } from 'react'
import { useHush } from '../state/use-hush'
import { useRoom } from '../state/room'
import { Check } from '../ui/fields'

const KEY = 'kq-runs-again'

/** Which of what was switched off runs again, kept in this browser for the day. */
function useRunsAgain(roomId: string) {
  const key = `${KEY}-${roomId}-${new Date().toDateString()}`
  const [done, setDone] = useState<readonly string[]>(() => JSON.parse(localStorage.getItem(key) ?? '[]') as string[])
  const set = (next: readonly string[]) => {
    setDone(next)
    localStorage.setItem(key, JSON.stringify(next))
  }
  return [done, set] as const
}

/** What was switched off for the recording and must run again; it stays in sight, and asks before the page is left, until each is ticked. */
export function PutBackOn() {
  const { id } = useRoom()
  const { data: hush } = useHush()
  const [done, setDone] = useRunsAgain(id)
  const items = hush?.restore ?? []
  const left = items.filter((item) => !done.includes(item.name))
  const mustStay = left.some((item) => item.must)
  useEffect(() => {
    if (!mustStay) return
    const ask = (event: BeforeUnloadEvent) => event.preventDefault()
    window.addEventListener('beforeunload', ask)
    return () => window.removeEventListener('beforeunload', ask)
  }, [mustStay])
  if (items.length === 0) return null
  return (
    <section
      aria-labelledby="put-back-on"
      className={`rounded-xl border px-3 py-2 ${left.length ? 'border-change bg-change-soft' : 'border-felt bg-felt-soft'}`}
      data-testid="restore"
    >
      <h2 id="put-back-on" className="text-head">
        {left.length ? 'Before you go: put back on' : 'All that was off runs again'}
      </h2>
      <ul>
        {items.map((item) => (
          <li key={item.name}>
            <Check
              label={`${item.name} runs again${item.must ? ' (it must not stay off)' : ''}`}
              checked={done.includes(item.name)}
              onChange={(on) => setDone(on ? [...done, item.name] : done.filter((name) => name !== item.name))}
            />
          </li>
        ))}
      </ul>
    </section>
  )
}
