import { describe, expect, it } from 'vitest'
import type { Marks } from '../api/client'
import { formerOf, sourceWords } from './marks-column'

type Mark = Marks['bounce']
const figure = { value: 6.0, plus_minus: 0.7 }
const measured = { value: 6.5, plus_minus: 0.7, current: true, simulated: true, since: null }
const mark = (part: object) => ({ source: 'predicted', predicted: figure, measured: null, ...part }) as unknown as Mark

describe('what stands under a mark', () => {
  it.each([
    [{}, 'predicted, not measured yet'],
    [{ source: 'measured', measured }, 'measured (simulated) · predicted 6.0'],
    [{ measured: { ...measured, since: 'the floor' } }, 'predicted · measured 6.5 before the floor changed'],
    [{ source: null, predicted: null, lacks: { words: 'needs a test take' } }, 'needs a test take'],
  ])('names the source and the other value: %j', (part, said) => expect(sourceWords('bounce', mark(part))).toBe(said))
  it('says of a move being tried that it is the move that differs', () =>
    expect(sourceWords('bounce', mark({ measured }), true)).toBe('predicted · measured 6.5 before this move'))
})

describe('what a mark was before the move being tried', () => {
  const before = mark({ source: 'measured', measured, value: 6.5 })
  it('is what was measured where the change is added to that', () =>
    expect(formerOf(mark({ led: true, value: 8.0 }), before)).toBe(6.5))
  it('is the prediction where a prediction is shown', () =>
    expect(formerOf(mark({ led: false, value: 7.4 }), before)).toBe(6.0))
})
