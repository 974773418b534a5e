import assert from 'node:assert/strict'
import { test } from 'vitest'
import { fit, fitting, type Goal } from './find'

const goal = (name: string, says = '', kind = 'page'): Goal => ({ key: name, name, says, kind })

test('every word has to fit', () => {
  assert.equal(fit(goal('Z offset'), ['z', 'map']), null)
  assert.notEqual(fit(goal('Z offset', 'of this visit'), ['visit', 'z']), null)
})

test('a name that begins so comes before one that only contains it', () => {
  const goals = [goal('Old logbook'), goal('Dialogue'), goal('Logbook'), goal('Workshop', 'log of all')]
  assert.deepEqual(
    fitting(goals, 'log').map((one) => one.name),
    ['Logbook', 'Old logbook', 'Dialogue', 'Workshop'],
  )
})

test('accents and capitals do not matter', () => {
  assert.equal(fitting([goal('Réserve')], 'reser').length, 1)
  assert.equal(fitting([goal('Reserve')], 'RÉS').length, 1)
})

test('nothing typed shows the first, and never more than asked for', () => {
  const many = Array.from({ length: 30 }, (_, i) => goal(`Printer ${i}`))
  assert.equal(fitting(many, '').length, 12)
  assert.equal(fitting(many, 'printer', 5).length, 5)
  assert.deepEqual(fitting(many, '  ')[0], many[0])
})
