import type { Schemas } from '@/api/client'
import assert from 'node:assert/strict'
import { test } from 'vitest'
import { parseNumber } from '@/shell/format'
import { differ } from './differences'
import { collectMore, emptyMore, limitOf, takeMore, type More } from './more'

const printer = {
  name: 'Ruff',
  pads: [{ name: 'front left pad', x: 10, y: 12.5, foils: [0.1, 0.05] }],
  keep_off: [{ name: 'clip', x_min: 0, x_max: 10, y_min: 20, y_max: 30, height: 4 }],
  screws: [{ name: 'front left', x: 20, y: 20, to_tight: 4, to_loose: null }],
  beam_screws: 2,
  beam_lead: 8,
  beam_left: -10,
  beam_right: 250,
  beam_carries: 'nozzle',
  beam_steps: 200,
  beam_raises: 'clockwise',
  plate_bends: true,
  probe_kind: 'inductive',
  probe_dx: -40,
  probe_dy: 5,
  closer_is: 'negative',
  compensation: 'mesh',
  offset_kept: ['printer', 'slicer'],
  surfaces: [
    { name: 'Old glass', kind: 'glass', thickness: 4, condition: 'worn', prints_since_wash: 2, coats: 1 },
  ],
  materials: ['PLA'],
  port: '/dev/ttyACM0',
  baud: 115200,
  dialect: 'open',
  link_name: '',
  most_bed: 110,
  most_nozzle: 260,
  lift: 5,
  longest_heat: 60,
  zero_kept: 'probe',
  switch_pitch: null,
} as unknown as Schemas['PrinterOut']

const number = (_field: string, text: string): number => parseNumber(text) ?? NaN
const maybe = (_field: string, text: string): number | null => (text.trim() ? parseNumber(text) : null)
const collect = (m: More) => collectMore(m, number, maybe)

test('a set-up that is opened and saved stays what it was', () => {
  const sent = collect(takeMore(printer)) as Record<string, unknown>
  for (const [field, value] of Object.entries(sent))
    assert.deepEqual(value, (printer as Record<string, unknown>)[field], field)
  assert.deepEqual(limitOf(takeMore(printer), 'front left', 0, maybe), { to_tight: 4, to_loose: null })
})

test('a printer without a probe has no distance to it, and its probe keeps no zero', () => {
  const sent = collect({ ...takeMore(printer), probe_kind: 'none' })
  assert.deepEqual([sent.probe_dx, sent.probe_dy, sent.zero_kept], [0, 0, ''])
})

test('what was left empty is not known, not 0', () => {
  const sent = collect({ ...emptyMore(), zero_kept: 'switch', switch_pitch: ' ' })
  assert.deepEqual([sent.beam_left, sent.beam_steps, sent.switch_pitch], [null, null, null])
})

test('a field that cannot be read is named to who reads it', () => {
  const asked: string[] = []
  const m = { ...takeMore(printer), most_bed: 'hot' }
  collectMore(m, (field, text) => (asked.push(`${field}=${text}`), 0), maybe)
  assert.ok(asked.includes('most_bed=hot') && asked.includes('keep_off.0.left=0'))
})

test('what differs between two set-ups is told in words, and nothing else', () => {
  const mine = { ...printer, name: 'Ruff', lift: 7, materials: ['PLA', 'PETG'] } as never
  assert.deepEqual(differ(mine, printer), [
    { label: 'Materials', mine: 'PLA; PETG', theirs: 'PLA' },
    { label: 'Lift', mine: '7', theirs: '5' },
  ])
})
