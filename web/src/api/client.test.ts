import { describe, expect, it } from 'vitest'
import { inWords, Refused, refusal, unwrap } from './client'

const answer = (status: number) => new Response(null, { status })

describe('answers', () => {
  it('give their data', () => {
    expect(unwrap({ data: 3, response: answer(200) })).toBe(3)
  })
  it('become refusals with field, reason, cure and the newest revision', () => {
    const body = { error: { field: 'revision', reason: 'It was changed.', cure: 'Choose.' }, newest: 7 }
    expect(() => unwrap({ response: answer(500) })).toThrow(Refused)
    const refused = refusal(409, body)
    expect([refused.status, refused.field, refused.newest]).toEqual([409, 'revision', 7])
  })
  it('that say nothing are still put in words', () => {
    expect(inWords(refusal(500, undefined))).toEqual({
      title: 'The server answered 500.',
      cure: 'Try again in a moment.',
    })
    expect(inWords(new TypeError('Failed to fetch')).title).toContain('not answering')
    expect(inWords(refusal(422, { error: { field: 'width', reason: 'is 40 m.', cure: 'Check.' } })).title).toBe(
      'width is 40 m.',
    )
    expect(inWords(refusal(422, { error: { field: 'length', reason: "'x' is no length.", cure: '' } })).title).toBe(
      "'x' is no length.",
    )
  })
})
