import { Sheet } from '../ui/dialog'

const KEYS: readonly [string, string][] = [
  ['Tab', 'go to the next mark on the drawing'],
  ['Arrow keys', 'move the chosen mark by 1 cm'],
  ['Shift + arrows', 'move it by 10 cm'],
  ['[ and ]', 'turn it by 5°'],
  ['1 … 9', 'go to a step of the path'],
  ['+ and −', 'look nearer or from further away; 0 fits the room'],
  ['Alt + arrows', 'move the drawing while it is near'],
  ['Ctrl Z', 'undo'],
  ['Ctrl Shift Z', 'redo'],
  ['Esc', 'put back what is being tried'],
  ['← →', 'read values in a plot'],
  ['?', 'this list'],
]

export function Shortcuts({ open, onClose }: { open: boolean; onClose: () => void }) {
  return (
    <Sheet open={open} onClose={onClose} title="Keys">
      <dl className="grid grid-cols-[auto_1fr] gap-x-5 gap-y-1.5">
        {KEYS.map(([keys, what]) => (
          <div key={keys} className="contents">
            <dt className="font-display font-semibold whitespace-nowrap">{keys}</dt>
            <dd className="text-ink-2">{what}</dd>
          </div>
        ))}
      </dl>
    </Sheet>
  )
}
