import { expect, test } from 'vitest'
import { ClapTrigger } from './clap-trigger'

const noise = (trigger: ClapTrigger, level: number, blocks: number) =>
  Array.from({ length: blocks }, (_, i) => trigger.hears(level + (i % 3))).filter(Boolean).length

test('a clap over a quiet room starts, the room itself does not', () => {
  const trigger = new ClapTrigger()
  expect(noise(trigger, -58, 200)).toBe(0)
  expect(trigger.hears(-12)).toBe(true)
})

test('speech that grows slowly does not start', () => {
  const trigger = new ClapTrigger()
  noise(trigger, -50, 100)
  const started = Array.from({ length: 1500 }, (_, i) => trigger.hears(-50 + (i / 1500) * 30)).some(Boolean)
  expect(started).toBe(false)
})

test('a faint tick in a dead quiet room is no clap', () => {
  const trigger = new ClapTrigger()
  noise(trigger, -90, 100)
  expect(trigger.hears(-50)).toBe(false)
})
