import assert from 'node:assert/strict'
import { test } from 'vitest'
import { asCsv, asTabs, cell, type Column } from './rows'

interface Row {
  name: string
  height: number
}
const columns: Column<Row>[] = [
  { key: 'name', title: 'Name', says: (row) => row.name },
  { key: 'height', title: 'Height, mm', says: (row) => row.height },
]

test('quotes, commas and line ends are kept in their cell (RFC 4180, section 2)', () => {
  assert.equal(
    asCsv([{ name: 'a "b", c\nd', height: 0.2 }], columns),
    'Name,"Height, mm"\r\n"a ""b"", c\nd",0.2\r\n',
  )
})

test('a minus that is typeset is one that computes', () => {
  assert.equal(cell('−0.12'), '-0.12')
  assert.equal(cell(-0.12), '-0.12')
  assert.equal(cell('+0.12'), '+0.12')
})

test('no cell runs as a formula', () => {
  for (const text of ['=1+1', '@SUM(A1)', '+cmd', '-cmd', '\t=1'])
    assert.equal(cell(text).replaceAll('"', '')[0], "'")
})

test('pasted, a row stays a row', () => {
  assert.equal(asTabs([{ name: 'a\tb\nc', height: 1 }], columns), 'Name\tHeight, mm\na b c\t1')
})
