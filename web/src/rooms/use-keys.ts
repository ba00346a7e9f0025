import { useEffect } from 'react'
import { tinykeys } from 'tinykeys'
import { useRoom } from '../state/room'

const WRITING = 'input:not([type=checkbox]), textarea, select, [role=listbox], [role=dialog], [role=menu]'

/** The keyboard's short ways, left alone where somebody writes or a dialog is open. */
export function useKeys({ onHelp, onStep }: { onHelp: () => void; onStep: (index: number) => void }) {
  const { undo, redo, trying, putBack } = useRoom()
  useEffect(() => {
    const outside = (act: () => void) => (event: KeyboardEvent) => {
      if (event.target instanceof Element && event.target.closest(WRITING)) return
      event.preventDefault()
      act()
    }
    const steps = [1, 2, 3, 4, 5, 6, 7, 8, 9].map((n) => [String(n), outside(() => onStep(n - 1))] as const)
    return tinykeys(window, {
      '$mod+z': outside(undo),
      '$mod+Shift+z': outside(redo),
      '$mod+y': outside(redo),
      'Shift+?': outside(onHelp),
      '?': outside(onHelp),
      Escape: (event) => {
        if (trying) outside(putBack)(event)
      },
      ...Object.fromEntries(steps),
    })
  }, [onHelp, onStep, putBack, redo, trying, undo])
}
