// The hands at the simulated printer.
const byId = (id) => document.getElementById(id)
const eighths = (turns) => `${turns < 0 ? '−' : turns > 0 ? '+' : ''}${Math.abs(turns).toFixed(3)}`
const mm = (v) => `${v < 0 ? '−' : '+'}${Math.abs(v).toFixed(3)} mm`

async function ask(path, body) {
  const options = body === undefined ? {} : { method: 'POST', headers: { 'Content-Type': 'application/json' }, body: JSON.stringify(body) }
  try {
    const answer = await fetch(path, options)
    const state = await answer.json()
    if (!answer.ok) byId('status').textContent = state.detail
    else show(state)
  } catch {
    byId('status').textContent = 'The simulated printer does not answer. Is it still running?'
  }
}

function build(state) {
  // the back row first, as the bed is seen from above
  const knobs = [...state.knobs].sort((a, b) => b.y - a.y || a.x - b.x)
  for (const knob of knobs) {
    const card = document.createElement('div')
    card.className = 'knob'
    card.dataset.knob = knob.name
    const name = document.createElement('b')
    name.textContent = knob.name
    const turned = document.createElement('p')
    turned.className = 'turned'
    card.append(name, turned)
    const row = document.createElement('div')
    row.className = 'row'
    for (const [label, turns] of [['Loosen 1/32', -0.03125], ['Tighten 1/32', 0.03125], ['Loosen 1/8', -0.125], ['Tighten 1/8', 0.125], ['Loosen 1/2', -0.5], ['Tighten 1/2', 0.5]]) {
      const button = document.createElement('button')
      button.type = 'button'
      button.textContent = label
      button.setAttribute('aria-label', `${label} at ${knob.name}`)
      button.addEventListener('click', () => ask('turn', { knob: knob.name, turns }))
      row.append(button)
    }
    const slip = document.createElement('button')
    slip.type = 'button'
    slip.className = 'slip'
    slip.textContent = 'Screw spins'
    slip.setAttribute('aria-label', `Screw spins at ${knob.name}`)
    slip.addEventListener('click', () => ask('slip', { knob: knob.name }))
    row.append(slip)
    card.append(row)
    byId('knobs').append(card)
  }
  for (const name of state.switches) {
    const button = document.createElement('button')
    button.type = 'button'
    button.textContent = name
    button.dataset.switch = name
    button.addEventListener('click', () => ask('press', { switch: button.getAttribute('aria-pressed') === 'true' ? null : name }))
    byId('switches').append(button)
  }
}

const inside = (value, most) => Math.min(Math.max(value, 15), most - 15)
function show(state) {
  if (!byId('knobs').children.length) {
    build(state)
    const places = [...state.knobs.map((k) => [k.name, inside(k.x, state.width), inside(k.y, state.depth)]), ['the middle', state.width / 2, state.depth / 2]]
    for (const [name, x, y] of places) byId('place').add(new Option(name, `${x} ${y}`))
  }
  const parts = [
    state.halted ? 'HALTED: switch it off and on' : state.homed ? 'homed' : 'not homed',
    state.plugged ? (state.connected ? 'connected' : 'no client') : 'cable out',
    `bed ${state.bed} °C, nozzle ${state.nozzle} °C`,
    `${state.touches} touches`,
    `time runs ${state.speed}×`,
  ]
  if (document.activeElement !== byId('offset')) byId('offset').value = state.offset.toFixed(2)
  byId('on').hidden = state.waiting === null
  byId('card').textContent = state.waiting !== null ? `Waiting: ${state.waiting}` : state.card.lines ? `Printing ${state.card.name}: line ${state.card.at} of ${state.card.lines}` : state.card.name ? `${state.card.name} is done.` : ''
  draw(state)
  if (state.cut_after !== null) parts.push(`cable drops after ${state.cut_after} more`)
  byId('status').textContent = parts.join(' · ')
  for (const knob of state.knobs) {
    const card = document.querySelector(`[data-knob="${knob.name}"]`)
    card.querySelector('.turned').textContent = `${eighths(knob.turned)} turns since the start`
    card.querySelector('.slip').setAttribute('aria-pressed', String(knob.slips))
  }
  byId('truth').textContent = [...state.knobs.map((k) => `${k.name} ${mm(k.height)}`), `middle ${mm(state.middle)}`].join(', ')
  for (const button of document.querySelectorAll('[data-state]')) button.setAttribute('aria-pressed', String(Boolean(state[button.dataset.state])))
  for (const button of document.querySelectorAll('[data-switch]')) button.setAttribute('aria-pressed', String(state.pressed === button.dataset.switch))
}

const FEELS = { free: 'slides freely', slight: 'slight drag', strong: 'strong drag', bunches: 'pulls, but bunches up when pushed', stuck: 'will not move' }
const TINTS = { far_too_far: '#1c5a78', too_far: '#86b3c4', good: '#f4eddc', too_close: '#e0a56c', far_too_close: '#96380f', scraped: '#5a1400' }
const svg = (name, attributes, text) => {
  const made = document.createElementNS(byId('bed-picture').namespaceURI, name)
  for (const [key, value] of Object.entries(attributes)) made.setAttribute(key, value)
  if (text !== undefined) made.textContent = text
  return made
}
let drawn = ''
function draw(state) {
  const now = JSON.stringify(state.looks)
  if (now === drawn) return
  drawn = now
  const box = byId('bed-picture')
  const list = byId('looks')
  box.replaceChildren()
  list.replaceChildren()
  byId('laid').hidden = !state.looks.length
  box.setAttribute('viewBox', `0 0 ${state.width} ${state.depth}`)
  box.append(svg('rect', { width: state.width, height: state.depth, fill: '#e6dec9' }))
  for (const one of state.looks) {
    const corners = one.outline.map(([x, y]) => `${x},${state.depth - y}`).join(' ')
    box.append(svg('polygon', { points: corners, fill: TINTS[one.look], stroke: '#1d2f3a', 'stroke-width': 0.6 }))
    box.append(svg('text', { x: one.x, y: state.depth - one.y + 3, 'text-anchor': 'middle', 'font-size': 8, fill: one.look === 'far_too_far' || one.look === 'far_too_close' || one.look === 'scraped' ? '#fff' : '#1d2f3a' }, String(one.number)))
    const item = document.createElement('li')
    item.dataset.look = one.look
    item.textContent = one.words
    list.append(item)
  }
}

for (const button of document.querySelectorAll('[data-do]'))
  button.addEventListener('click', () => ask(button.dataset.do, JSON.parse(button.dataset.body ?? '{}')))
byId('later').addEventListener('submit', (event) => {
  event.preventDefault()
  ask(event.submitter.value, { touches: Number(byId('touches').value) })
})
byId('truth-button').addEventListener('click', () => {
  byId('truth').hidden = !byId('truth').hidden
  byId('truth-button').setAttribute('aria-expanded', String(!byId('truth').hidden))
})
byId('file').addEventListener('change', async () => {
  const [file] = byId('file').files
  if (file) await ask('card', { name: file.name, text: await file.text() })
  byId('file').value = ''
})
byId('menu').addEventListener('submit', (event) => {
  event.preventDefault()
  ask('menu', { offset: Number(byId('offset').value.replace(',', '.').replace('−', '-')) })
})
async function push(z) {
  const [x, y] = byId('place').value.split(' ').map(Number)
  byId('head-z').value = z.toFixed(2)
  await ask('head', { x, y, z })
  byId('feel').textContent = `The tip stands at Z ${z.toFixed(2)} mm.`
}
const heightOf = () => Number(byId('head-z').value.replace(',', '.').replace('−', '-'))
byId('head').addEventListener('submit', (event) => {
  event.preventDefault()
  push(heightOf())
})
byId('down').addEventListener('click', () => push(Math.round((heightOf() - 0.05) * 1000) / 1000))
byId('paper').addEventListener('click', async () => {
  const { feel } = await (await fetch('paper')).json()
  byId('feel').textContent = `The paper ${FEELS[feel].startsWith('s') && feel !== 'free' ? 'has a ' : ''}${FEELS[feel]}.`
})
ask('state')
setInterval(() => ask('state'), 1000)
