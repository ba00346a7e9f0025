import { Popover, PopoverButton, PopoverPanel } from '@headlessui/react'
import type { Forecast, MarkKey } from '../api/client'
import { usePredicted } from '../state/forecast'
import { useRoom } from '../state/room'
import { Notice } from '../ui/notice'
import { Figures, formerOf, Lacking, NAMES, sourceWords, Value, wantedWords } from './marks-column'
import { ORDER } from './scales'
import { BeadString } from './string'

/** The four strings as one row over a stage, with the ghost of what is being tried. */
export function MarksBand() {
  const { trying } = useRoom()
  const { active, standing, trouble, isFresh } = usePredicted()
  if (trouble && !active) return <Notice tone="stop" title={trouble.title} body={trouble.cure} />
  return (
    <section
      aria-label="The four marks"
      aria-busy={!isFresh}
      data-testid={active ? 'marks' : 'marks-waiting'}
      className="-mr-3 grid h-[76px] grid-cols-4 gap-5 border-b border-line pt-1.5 pr-3"
    >
      {ORDER.map((mark) => (
        <div key={mark} className="min-w-0" data-testid={`mark-${mark}`}>
          {active ? (
            <Cell mark={mark} active={active} standing={trying ? standing : null} />
          ) : (
            <h3 className="text-plain">{NAMES[mark]}</h3>
          )}
        </div>
      ))}
    </section>
  )
}

function Cell({ mark, active, standing }: { mark: MarkKey; active: Forecast; standing: Forecast | null }) {
  const now = active.marks[mark]
  const former = formerOf(now, standing?.marks[mark])
  const source = sourceWords(mark, now, standing !== null)
  const [short] = source.split(' · ')
  return (
    <>
      <div className="flex h-[1.5rem] items-baseline justify-between gap-2">
        <h3 className="text-plain">{now.name}</h3>
        <Value mark={mark} now={now} former={former} small />
      </div>
      <BeadString
        mark={mark}
        width={184}
        measured={now.measured}
        predicted={now.predicted}
        former={former}
        wanted={now.wanted}
      />
      <div className="flex items-baseline justify-between gap-2 text-fine text-ink-2">
        <p className="min-w-0 truncate" data-testid={`source-${mark}`} title={source}>
          {short}
        </p>
        <Popover className="relative shrink-0">
          <PopoverButton className="rounded px-0.5 font-semibold underline decoration-line-strong underline-offset-2 hover:text-ink">
            Why?
          </PopoverButton>
          <PopoverPanel
            anchor="bottom end"
            className="z-40 w-80 rounded-xl border border-line bg-card p-3 text-small shadow-card"
          >
            <p className="mb-1.5 text-note font-semibold">{now.sentence}</p>
            <Lacking now={now} />
            <Figures mark={mark} active={active} />
          </PopoverPanel>
        </Popover>
      </div>
    </>
  )
}

/** What is wanted on each string, and nothing else: where it is chosen. */
export function Felts() {
  const { active, isFresh } = usePredicted()
  return (
    <section aria-label="What is wanted" aria-busy={!isFresh} data-testid="felts">
      <h2 className="mb-1 text-head">So this is wanted</h2>
      {ORDER.map((mark) => {
        const now = active?.marks[mark]
        return (
          <div
            key={mark}
            className="min-h-[8.7rem] border-b border-line py-2 last:border-0"
            data-testid={`felt-${mark}`}
          >
            <div className="flex items-baseline justify-between gap-2">
              <h3 className="text-plain">
                {NAMES[mark]} <span className="font-text text-fine font-normal text-ink-2">{now?.meaning ?? ''}</span>
              </h3>
              <span className="text-note font-semibold whitespace-nowrap">
                {now ? wantedWords(mark, now.wanted, now.unit) : ''}
              </span>
            </div>
            {now ? (
              <>
                <BeadString mark={mark} wanted={now.wanted} />
                <p className="text-fine leading-snug text-ink-2">{now.wanted.why}</p>
              </>
            ) : null}
          </div>
        )
      })}
    </section>
  )
}
