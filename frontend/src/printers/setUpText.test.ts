import { expect, test } from 'vitest'
import type { Schemas } from '@/api/client'
import { asBody, asText, barred, emptySetUp, placed } from './setUpText'

const named = () => {
  const typed = emptySetUp()
  typed.form.name = 'Turnstone'
  return typed
}

test('a comma is a point, and nothing typed is nothing known', () => {
  const typed = named()
  Object.assign(typed.form, { width: '220,5', plate_width: '', repeatability: ' ' })
  const { body, errors } = asBody(typed)
  expect(errors).toEqual({})
  expect(body).toMatchObject({ width: 220.5, plate_width: null, repeatability: null, divisions: 8 })
})

test('every field that is no number is named, and nothing is sent', () => {
  const typed = emptySetUp()
  Object.assign(typed.form, { width: 'wide', first_layer: '' })
  typed.form.screws = [{ name: 'front left', x: '10', y: 'there', thread: 'M4', pitch: '0.7' }]
  const { body, errors } = asBody(typed)
  expect(body).toBeNull()
  expect(Object.keys(errors).toSorted()).toEqual(['first_layer', 'name', 'screws.0.y', 'width'])
})

test('a plate as large as the printable area is not typed for anybody', () => {
  const stored = {
    ...asBody(named()).body!,
    version: 3,
    plate_width: 220,
    plate_depth: 235,
    screws: [],
    pads: [],
    keep_off: [],
    surfaces: [],
    bed: null,
    probe_reach: null,
  } as unknown as Schemas['PrinterOut']
  const { form, version, screwCount, ownPlaces } = asText(stored)
  expect([form.plate_width, form.plate_depth]).toEqual(['', '235'])
  expect([version, screwCount, ownPlaces]).toEqual([3, 0, true])
})

test('only what is a place so far is drawn', () => {
  const at = placed([
    { name: 'a', x: '1,5', y: '−2' },
    { name: 'b', x: '', y: '3' },
  ])
  expect(at).toEqual([{ name: 'a', x: 1.5, y: -2 }])
  const { more } = emptySetUp()
  more.keep_off = [
    { name: 'clip', left: '0', right: '20', front: '0', back: '8', height: '' },
    { name: '', left: '0', right: '20', front: '0', back: '8', height: '3' },
    { name: 'half', left: '0', right: '', front: '0', back: '8', height: '3' },
  ] as typeof more.keep_off
  expect(barred(more)).toEqual([{ name: 'clip', x_min: 0, x_max: 20, y_min: 0, y_max: 8, height: 5 }])
})
