import type { WebGLRenderer } from 'three';

/** Share of a small picture's quality that is kept. */
const QUALITY = 0.85;
/** Pause between two looks whether the drawing has come, ms. */
const PAUSE_MS = 20;

/**
 * A small picture of what a renderer has drawn just now, without waiting for it on the page's thread: the drawing is fetched
 * when it has come. What the canvas is to go on showing is drawn over it before anyone sees it; after that nothing may be drawn
 * until the picture is there: fetching would wait for that, too.
 *
 * @returns a data URL; empty when the drawing was taken away meanwhile
 */
export async function pictureOf(
  renderer: WebGLRenderer,
  width: number,
  height: number,
  drawOver: () => void,
): Promise<string> {
  const gl = renderer.getContext() as WebGL2RenderingContext;
  const [w, h] = [gl.drawingBufferWidth, gl.drawingBufferHeight];
  const pixels = new Uint8ClampedArray(4 * w * h);
  const buffer = gl.createBuffer();
  gl.bindBuffer(gl.PIXEL_PACK_BUFFER, buffer);
  gl.bufferData(gl.PIXEL_PACK_BUFFER, pixels.byteLength, gl.STREAM_READ);
  gl.readPixels(0, 0, w, h, gl.RGBA, gl.UNSIGNED_BYTE, 0);
  gl.bindBuffer(gl.PIXEL_PACK_BUFFER, null);
  drawOver();
  const fence = gl.fenceSync(gl.SYNC_GPU_COMMANDS_COMPLETE, 0);
  gl.flush();
  if (!fence || !(await signalled(gl, fence))) return '';
  gl.bindBuffer(gl.PIXEL_PACK_BUFFER, buffer);
  gl.getBufferSubData(gl.PIXEL_PACK_BUFFER, 0, pixels);
  gl.bindBuffer(gl.PIXEL_PACK_BUFFER, null);
  gl.deleteBuffer(buffer);
  gl.deleteSync(fence);

  // its rows come from the bottom up, on nothing
  const whole = new OffscreenCanvas(w, h);
  whole.getContext('2d')!.putImageData(new ImageData(pixels, w, h), 0, 0);
  const small = new OffscreenCanvas(width, height);
  const scale = Math.min(width / w, height / h);
  const context = small.getContext('2d')!;
  context.setTransform(scale, 0, 0, -scale, (width - scale * w) / 2, (height + scale * h) / 2);
  context.drawImage(whole, 0, 0);
  return dataUrlOf(await small.convertToBlob({ type: 'image/webp', quality: QUALITY }));
}

function dataUrlOf(blob: Blob): Promise<string> {
  return new Promise((take, fail) => {
    const reader = new FileReader();
    reader.onload = () => take(reader.result as string);
    reader.onerror = () => fail(reader.error!);
    reader.readAsDataURL(blob);
  });
}

async function signalled(gl: WebGL2RenderingContext, fence: WebGLSync): Promise<boolean> {
  for (;;) {
    const state = gl.clientWaitSync(fence, 0, 0);
    if (gl.isContextLost() || state === gl.WAIT_FAILED) return false;
    if (state !== gl.TIMEOUT_EXPIRED) return true;
    await new Promise((go) => setTimeout(go, PAUSE_MS));
  }
}
