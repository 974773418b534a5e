import assert from 'node:assert/strict'
import { describe, test } from 'vitest'
import { ago, asDate, asDay, asTime, count, figure, mm, parseNumber, query, spreadOf } from './format'

describe('what is typed', () => {
  test.each([
    ['0.2', 0.2],
    ['0,2', 0.2],
    [' .2 ', 0.2],
    ['-0,2', -0.2],
    ['−0.2', -0.2],
    ['+1.', 1],
    ['12', 12],
  ])('%s is a number', (text, value) => assert.equal(parseNumber(text), value))

  test.each(['', ' ', '-', '.', '1 2', '1.2.3', '1,234.5', '1e3', 'Infinity', '0x10', 'NaN', '0.2 mm'])(
    '“%s” is none',
    (text) => assert.equal(parseNumber(text), null),
  )

  test('whatever is shown can be typed again', () => {
    for (let value = -300; value <= 300; value += 7)
      assert.equal(parseNumber(figure(value / 100, true)), value / 100)
  })
})

describe('what is shown', () => {
  test('nothing has no sign', () => {
    assert.equal(figure(-0.001, true), '0.00')
    assert.equal(figure(0.004, true), '0.00')
  })
  test('a real minus, two digits, its unit', () => {
    assert.equal(mm(-0.123), '−0.12 mm')
    assert.equal(mm(0.125, true, 3), '+0.125 mm')
  })
  test('paper that left a bed open says the least', () => {
    assert.equal(spreadOf({ spread: 0.1, verdict: 'open' }), 'at least 0.10 mm')
    assert.equal(spreadOf({ spread: 0.1, verdict: 'turn' }), '0.10 mm')
  })
  test('one and many', () => {
    assert.equal(count(1, 'patch', 'patches'), '1 patch')
    assert.equal(count(0, 'patch', 'patches'), '0 patches')
    assert.equal(count(2, 'case'), '2 cases')
  })
  test('how long ago', () => {
    const before = (days: number): string => new Date(Date.now() - days * 86_400_000 - 1000).toISOString()
    assert.deepEqual(
      [0, 1, 13, 14, 69, 70, 365].map((days) => ago(before(days))),
      ['today', 'yesterday', '13 days ago', '2 weeks ago', '10 weeks ago', '2 months ago', '12 months ago'],
    )
  })
})

test('a wish becomes the part of an address that says it', () => {
  assert.equal(query({ a: 1, b: 'x y', c: true }), 'a=1&b=x+y&c=true')
})

test('dates read as in Britain, in the time of the place (against the browser’s own formatter)', () => {
  const day = new Intl.DateTimeFormat('en-GB', {
    weekday: 'short',
    day: 'numeric',
    month: 'short',
    year: 'numeric',
  })
  const clock = new Intl.DateTimeFormat('en-GB', { hour: '2-digit', minute: '2-digit' })
  for (let n = 0; n < 800; n += 1) {
    const iso = new Date(Date.UTC(2026, 0, 1) + n * 17.3 * 3_600_000).toISOString()
    // the formatter writes Sept, as nobody else does
    const said = day.format(new Date(iso)).replace('Sept', 'Sep')
    assert.equal(asDay(iso), said)
    assert.equal(asDate(iso), said.slice(5))
    assert.equal(asTime(iso), clock.format(new Date(iso)))
  }
})
