// A drawing saved as a file.  With the readings it shows inside, so that it can be read again.
const KIND = 'finchwort-survey'

export function saveSvg(svg: SVGSVGElement, name: string, readings = ''): void {
  hand(new Blob([source(svg, readings)], { type: 'image/svg+xml' }), `${name}.svg`)
}

export async function savePng(
  svg: SVGSVGElement,
  name: string,
  ground: string,
  readings = '',
): Promise<void> {
  const box = picture(svg)
  const url = URL.createObjectURL(new Blob([source(svg)], { type: 'image/svg+xml' }))
  try {
    const image = new Image()
    image.src = url
    await image.decode()
    const canvas = document.createElement('canvas')
    canvas.width = Math.round(box.width * 2)
    canvas.height = Math.round(box.height * 2)
    const pen = canvas.getContext('2d')!
    pen.fillStyle = ground
    pen.fillRect(0, 0, canvas.width, canvas.height)
    pen.drawImage(image, 0, 0, canvas.width, canvas.height)
    const blob = await new Promise<Blob | null>((done) => canvas.toBlob(done, 'image/png'))
    if (blob)
      hand(
        readings ? new Blob([withText(await blob.arrayBuffer(), readings)], { type: 'image/png' }) : blob,
        `${name}.png`,
      )
  } finally {
    URL.revokeObjectURL(url)
  }
}

/** The size of the drawing itself, without the space beside it. */
function picture(svg: SVGSVGElement): { width: number; height: number } {
  const frame = svg.getBoundingClientRect()
  const { width, height } = svg.viewBox.baseVal
  const scale = Math.min(frame.width / width, frame.height / height)
  return { width: width * scale, height: height * scale }
}

function source(svg: SVGSVGElement, readings = ''): string {
  const copy = svg.cloneNode(true) as SVGSVGElement
  const box = picture(svg)
  copy.setAttribute('xmlns', 'http://www.w3.org/2000/svg')
  copy.setAttribute('width', String(Math.round(box.width)))
  copy.setAttribute('height', String(Math.round(box.height)))
  copy.querySelectorAll('[data-screen]').forEach((part) => part.remove())
  if (readings) {
    const note = document.createElementNS('http://www.w3.org/2000/svg', 'metadata')
    note.setAttribute('id', KIND)
    note.textContent = readings
    copy.prepend(note)
  }
  return new XMLSerializer().serializeToString(copy)
}

/** Put a text into a PNG, in an iTXt chunk before the end (PNG specification, 11.3.3.4). */
function withText(png: ArrayBuffer, text: string): Uint8Array<ArrayBuffer> {
  const bytes = new Uint8Array(png)
  const body = new TextEncoder().encode(`iTXt${KIND}\0\0\0\0\0${text}`)
  const chunk = new Uint8Array(body.length + 8)
  const view = new DataView(chunk.buffer)
  view.setUint32(0, body.length - 4)
  chunk.set(body, 4)
  view.setUint32(body.length + 4, crc(body))
  const end = bytes.length - 12 // the last chunk, IEND, is empty
  const whole = new Uint8Array(bytes.length + chunk.length)
  whole.set(bytes.subarray(0, end))
  whole.set(chunk, end)
  whole.set(bytes.subarray(end), end + chunk.length)
  return whole
}

function crc(bytes: Uint8Array): number {
  let value = 0xffffffff
  for (const byte of bytes) {
    value ^= byte
    for (let bit = 0; bit < 8; bit++) value = value & 1 ? (value >>> 1) ^ 0xedb88320 : value >>> 1
  }
  return (value ^ 0xffffffff) >>> 0
}

/** Hand a file to the person, under a name. */
export function hand(blob: Blob, name: string): void {
  const link = document.createElement('a')
  link.href = URL.createObjectURL(blob)
  link.download = name
  link.click()
  setTimeout(() => URL.revokeObjectURL(link.href), 10_000)
}
