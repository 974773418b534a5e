import assert from 'node:assert/strict'
import { beforeEach, test, vi } from 'vitest'

let marks: typeof import('./written')
const answer = (mark: number): Response =>
  new Response(null, { headers: { 'Finchwort-Written': String(mark) } })

beforeEach(async () => {
  vi.resetModules()
  vi.stubGlobal('window', { matchMedia: () => ({ matches: false }) })
  marks = await import('./written')
})

test('what is seen first is no news', () => {
  assert.equal(marks.newsIn('"7-7"'), false)
  assert.equal(marks.newsIn('"7-7"'), false)
})

test('what others wrote is news, once', () => {
  marks.newsIn('"7-7"')
  assert.equal(marks.newsIn('"8-8"'), true)
  assert.equal(marks.newsIn('"8-8"'), false)
})

test('what this page stored itself is none', () => {
  marks.newsIn('"7-7"')
  marks.stored(answer(8))
  marks.stored(answer(9))
  assert.equal(marks.newsIn('"9-9"'), false)
})

test('what others wrote between two of one’s own is news', () => {
  marks.newsIn('"7-7"')
  marks.stored(answer(8))
  marks.stored(answer(10))
  assert.equal(marks.newsIn('"10-10"'), true)
})

test('what another wrote with an older number and finished later is news', () => {
  marks.newsIn('"9-8"')
  assert.equal(marks.newsIn('"9-9"'), true)
})
