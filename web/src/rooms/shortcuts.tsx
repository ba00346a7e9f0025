import { Sheet } from '../ui/dialog'
import { useDesk } from './use-desk'

type Keys = readonly (readonly [keys: string, what: string])[]

/** On every drawing. */
const DRAWING: Keys = [
  ['Tab', 'go to the next mark on the drawing'],
  ['Arrow keys', 'move the chosen mark by 1 cm'],
  ['Shift + arrows', 'move it by 10 cm'],
  ['[ and ]', 'turn it by 5°'],
  ['+ and −', 'look nearer or from further away; 0 fits the room'],
  ['Alt + arrows', 'move the drawing while it is near'],
]

/** Wherever one is. */
const EVERYWHERE: Keys = [
  ['1 to 9', 'go to a step of the path'],
  ['Ctrl Z', 'undo'],
  ['Ctrl Shift Z', 'redo'],
  ['Esc', 'put back what is being tried'],
  ['← →', 'read values in a plot'],
  ['?', 'this list'],
]

/** The keys of the stage that is open, of the drawing where it has one, and of every page. */
export function Shortcuts({ open, onClose }: { open: boolean; onClose: () => void }) {
  const { step } = useDesk()
  return (
    <Sheet open={open} onClose={onClose} title="Keys">
      <Some title={step.name} keys={step.keys ?? []} />
      <Some title="The drawing" keys={DRAWING} />
      <Some title="Everywhere" keys={EVERYWHERE} />
    </Sheet>
  )
}

const Some = ({ title, keys }: { title: string; keys: Keys }) =>
  keys.length === 0 ? null : (
    <section className="mb-3">
      <h3 className="mb-1 text-plain">{title}</h3>
      <dl className="grid grid-cols-[9rem_1fr] gap-x-5 gap-y-1">
        {keys.map(([key, what]) => (
          <div key={key} className="contents">
            <dt className="font-display font-semibold whitespace-nowrap">{key}</dt>
            <dd className="text-ink-2">{what}</dd>
          </div>
        ))}
      </dl>
    </section>
  )
