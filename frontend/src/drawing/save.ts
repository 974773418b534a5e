// A drawing saved as a file.
export function saveSvg(svg: SVGSVGElement, name: string): void {
  hand(new Blob([source(svg)], { type: 'image/svg+xml' }), `${name}.svg`)
}

export async function savePng(svg: SVGSVGElement, name: string, ground: string): Promise<void> {
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
    if (blob) hand(blob, `${name}.png`)
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

function source(svg: SVGSVGElement): string {
  const copy = svg.cloneNode(true) as SVGSVGElement
  const box = picture(svg)
  copy.setAttribute('xmlns', 'http://www.w3.org/2000/svg')
  copy.setAttribute('width', String(Math.round(box.width)))
  copy.setAttribute('height', String(Math.round(box.height)))
  copy.querySelectorAll('[data-screen]').forEach((part) => part.remove())
  return new XMLSerializer().serializeToString(copy)
}

function hand(blob: Blob, name: string): void {
  const link = document.createElement('a')
  link.href = URL.createObjectURL(blob)
  link.download = name
  link.click()
  setTimeout(() => URL.revokeObjectURL(link.href), 10_000)
}
