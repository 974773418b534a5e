// Draws very many lines: with WebGL where there is one, otherwise line by line.
import type { Lines } from './lines'

export interface View {
  /** Corner of the picture at the front left, and mm in a pixel. */
  left: number
  front: number
  unit: number
}

export interface Painter {
  /** Take the bands of all lines. */
  bands: (bands: Uint8Array) => void
  draw: (view: View, colours: [number, number, number][], shown: number) => void
  /** Give back what it holds; with the drawing itself its context too. */
  gone: (last: boolean) => void
}

/** Roles in the order of the server: walls stand out, what is beside the parts stands back. */
const STRENGTH = [1, 0.86, 0.62, 0.5, 0.4, 0.4]
const THINNEST = 0.9

const VERTEX = `#version 300 es
in vec4 ends; in float width; in float band; in float role;
uniform vec2 origin; uniform vec2 size; uniform float unit; uniform vec3 colours[6]; uniform float strength[6];
uniform int shown; uniform vec3 ground;
out vec3 colour;
void main() {
  vec2 way = ends.zw - ends.xy; float far = max(length(way), 1e-4); vec2 along = way / far;
  float reach = max(width, ${THINNEST} * unit) / 2.0;
  float t = float(gl_VertexID & 1) * 2.0 - 1.0, side = float(gl_VertexID >> 1) * 2.0 - 1.0;
  vec2 middle = (ends.xy + ends.zw) / 2.0;
  vec2 place = middle + along * t * (far / 2.0 + reach * 0.5) + vec2(-along.y, along.x) * side * reach * 0.94;
  vec2 at = (place - origin) / unit / size * 2.0 - 1.0;
  bool out_ = (shown >> int(role) & 1) == 0;
  gl_Position = out_ ? vec4(2.0, 2.0, 2.0, 1.0) : vec4(at, 0.0, 1.0);
  colour = mix(ground, colours[int(band)], strength[int(role)]);
}`
const FRAGMENT = `#version 300 es
precision mediump float; in vec3 colour; out vec4 shown_;
void main() { shown_ = vec4(colour, 1.0); }`

export function makePainter(
  canvas: HTMLCanvasElement,
  lines: Lines,
  ground: [number, number, number],
): Painter {
  const gl = canvas.getContext('webgl2', { antialias: true, preserveDrawingBuffer: true })
  const made = gl && withGl(gl, lines, ground)
  return made || byHand(canvas, lines, ground)
}

function withGl(gl: WebGL2RenderingContext, lines: Lines, ground: [number, number, number]): Painter | null {
  const program = gl.createProgram()
  for (const [kind, text] of [
    [gl.VERTEX_SHADER, VERTEX],
    [gl.FRAGMENT_SHADER, FRAGMENT],
  ] as const) {
    const shader = gl.createShader(kind)!
    gl.shaderSource(shader, text)
    gl.compileShader(shader)
    gl.attachShader(program, shader)
  }
  gl.linkProgram(program)
  if (!gl.getProgramParameter(program, gl.LINK_STATUS)) return null
  gl.useProgram(program)
  const held: WebGLBuffer[] = []
  const buffer = (
    name: string,
    data: ArrayBufferView<ArrayBufferLike>,
    size: number,
    type: number,
  ): WebGLBuffer => {
    const made = gl.createBuffer()
    held.push(made)
    const at = gl.getAttribLocation(program, name)
    gl.bindBuffer(gl.ARRAY_BUFFER, made)
    gl.bufferData(gl.ARRAY_BUFFER, data as ArrayBufferView<ArrayBuffer>, gl.DYNAMIC_DRAW)
    gl.enableVertexAttribArray(at)
    gl.vertexAttribPointer(at, size, type, false, 0, 0)
    gl.vertexAttribDivisor(at, 1)
    return made
  }
  buffer('ends', lines.ends, 4, gl.FLOAT)
  buffer(
    'width',
    Float32Array.from(lines.bead, (bead) => lines.widths[bead]!),
    1,
    gl.FLOAT,
  )
  buffer('role', lines.role, 1, gl.UNSIGNED_BYTE)
  const band = buffer('band', new Uint8Array(lines.count), 1, gl.UNSIGNED_BYTE)
  const at = (name: string) => gl.getUniformLocation(program, name)
  gl.uniform1fv(at('strength[0]'), STRENGTH)
  gl.uniform3fv(at('ground'), ground)
  return {
    bands(bands) {
      gl.bindBuffer(gl.ARRAY_BUFFER, band)
      gl.bufferSubData(gl.ARRAY_BUFFER, 0, bands as Uint8Array<ArrayBuffer>)
    },
    draw(view, colours, shown) {
      const { width, height } = gl.canvas
      gl.viewport(0, 0, width, height)
      gl.clearColor(0, 0, 0, 0)
      gl.clear(gl.COLOR_BUFFER_BIT)
      gl.uniform2f(at('origin'), view.left, view.front)
      gl.uniform2f(at('size'), width, height)
      gl.uniform1f(at('unit'), view.unit)
      gl.uniform1i(at('shown'), shown)
      gl.uniform3fv(at('colours[0]'), colours.flat())
      gl.drawArraysInstanced(gl.TRIANGLE_STRIP, 0, 4, lines.count)
    },
    gone(last) {
      for (const one of held) gl.deleteBuffer(one)
      gl.deleteProgram(program)
      if (last) gl.getExtension('WEBGL_lose_context')?.loseContext()
    },
  }
}

function byHand(canvas: HTMLCanvasElement, lines: Lines, ground: [number, number, number]): Painter {
  const pen = canvas.getContext('2d')
  let bands: Uint8Array = new Uint8Array(lines.count)
  const css = (colour: number[], strength: number): string =>
    `rgb(${colour.map((c, i) => Math.round(255 * (ground[i]! + (c - ground[i]!) * strength))).join(' ')})`
  return {
    bands: (now) => (bands = now),
    draw(view, colours, shown) {
      if (!pen) return
      pen.clearRect(0, 0, canvas.width, canvas.height)
      // one stroke for all lines that look alike
      const alike = new Map<number, Path2D>()
      for (let i = 0; i < lines.count; i++) {
        if (!((shown >> lines.role[i]!) & 1)) continue
        const key = (lines.role[i]! << 16) | (bands[i]! << 12) | Math.min(lines.bead[i]!, 4095)
        const path = alike.get(key) ?? new Path2D()
        alike.set(key, path)
        const [x0, y0, x1, y1] = lines.ends.subarray(4 * i, 4 * i + 4)
        path.moveTo((x0! - view.left) / view.unit, canvas.height - (y0! - view.front) / view.unit)
        path.lineTo((x1! - view.left) / view.unit, canvas.height - (y1! - view.front) / view.unit)
      }
      for (const [key, path] of alike) {
        pen.strokeStyle = css(colours[(key >> 12) & 15]!, STRENGTH[key >> 16]!)
        pen.lineWidth = Math.max(lines.widths[key & 4095]! / view.unit, THINNEST)
        pen.stroke(path)
      }
    },
    gone: () => undefined,
  }
}
