declare module '*.svg' {
  /** The drawing as text. */
  const drawing: string;
  export default drawing;
}
