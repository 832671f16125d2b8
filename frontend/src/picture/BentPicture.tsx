/* The reduced picture laid on a mesh, where the picture bends: drawn by the graphics card, so that
   it follows the hand. */
import { chakra } from "@chakra-ui/react";
import { useEffect, useRef, useState } from "react";
import {
  createBufferInfoFromArrays,
  createProgramInfo,
  createTexture,
  drawBufferInfo,
  setBuffersAndAttributes,
  setUniforms,
  type ProgramInfo,
} from "twgl.js";
import type { Point } from "./geometry";

const Canvas = chakra("canvas");
/** Quads across and down: in so small a one straight lines are as good as curves. */
const COLUMNS = 60;
const ROWS = 40;

const VERTEX = `
attribute vec2 place;
attribute vec2 texcoord;
uniform vec2 size;
varying vec2 at;
void main() {
  at = texcoord;
  gl_Position = vec4(place / size * vec2(2.0, -2.0) + vec2(-1.0, 1.0), 0.0, 1.0);
}`;
const FRAGMENT = `
precision mediump float;
varying vec2 at;
uniform sampler2D picture;
void main() {
  gl_FragColor = texture2D(picture, at);
}`;

interface Props {
  src: string;
  alt: string;
  /** Where a place of the image, in shares of its sides, lies in pixels of the box around. */
  place: (share: Point) => Point;
  /** The border of the picture in the same pixels; nothing beyond it is shown. */
  clip: readonly Point[];
}

export function BentPicture({ src, alt, place, clip }: Props) {
  const ref = useRef<HTMLCanvasElement>(null);
  const drawing = useRef<{ gl: WebGLRenderingContext; program: ProgramInfo }>(undefined);
  const [texture, setTexture] = useState<{ src: string; made: WebGLTexture }>();

  useEffect(() => {
    const gl = ref.current?.getContext("webgl", { preserveDrawingBuffer: true, antialias: true });
    if (!gl) return;
    drawing.current = { gl, program: createProgramInfo(gl, [VERTEX, FRAGMENT]) };
    return () => {
      drawing.current = undefined;
      // Browsers allow few contexts at once.
      gl.getExtension("WEBGL_lose_context")?.loseContext();
    };
  }, []);

  useEffect(() => {
    const gl = drawing.current?.gl;
    if (!gl) return;
    let wanted = true;
    const made = createTexture(
      gl,
      { src, min: gl.LINEAR, mag: gl.LINEAR, wrap: gl.CLAMP_TO_EDGE, auto: false },
      (error) => {
        if (wanted && !error) setTexture({ src, made });
      },
    );
    return () => {
      wanted = false;
      gl.deleteTexture(made);
    };
  }, [src]);

  useEffect(() => {
    const canvas = ref.current;
    const drawn = drawing.current;
    if (!canvas || !drawn || texture?.src !== src) return;
    const { gl, program } = drawn;
    const [width, height] = [canvas.clientWidth, canvas.clientHeight];
    const ratio = window.devicePixelRatio;
    canvas.width = Math.round(width * ratio);
    canvas.height = Math.round(height * ratio);
    gl.viewport(0, 0, canvas.width, canvas.height);
    gl.clearColor(0, 0, 0, 0);
    gl.clear(gl.COLOR_BUFFER_BIT);
    gl.useProgram(program.program);
    const quads = createBufferInfoFromArrays(gl, gridOf(place));
    setBuffersAndAttributes(gl, program, quads);
    setUniforms(program, { size: [width, height], picture: texture.made });
    drawBufferInfo(gl, quads);
    for (const { buffer } of Object.values(quads.attribs ?? {})) gl.deleteBuffer(buffer);
    if (quads.indices) gl.deleteBuffer(quads.indices);
  });

  const border = clip.map(([x, y]) => `${x}px ${y}px`).join(", ");
  return (
    <Canvas
      ref={ref}
      role="img"
      aria-label={alt}
      data-bent={texture?.src === src}
      position="absolute"
      inset="0"
      width="100%"
      height="100%"
      pointerEvents="none"
      style={{ clipPath: `polygon(${border})` }}
    />
  );
}

/** The image in small quads, each of two triangles. */
function gridOf(place: (share: Point) => Point) {
  const places: number[] = [];
  const texcoords: number[] = [];
  const indices: number[] = [];
  for (let row = 0; row <= ROWS; row += 1)
    for (let column = 0; column <= COLUMNS; column += 1) {
      const share: Point = [column / COLUMNS, row / ROWS];
      texcoords.push(...share);
      places.push(...place(share));
      if (row === ROWS || column === COLUMNS) continue;
      const first = row * (COLUMNS + 1) + column;
      const under = first + COLUMNS + 1;
      indices.push(first, first + 1, under, under, first + 1, under + 1);
    }
  return {
    place: { numComponents: 2, data: places },
    texcoord: { numComponents: 2, data: texcoords },
    indices: { numComponents: 3, data: indices },
  };
}
