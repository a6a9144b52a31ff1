declare module 'gcode-parser' {
  interface Line {
    line: string;
    words: [string, number][];
  }
  const parser: { parseStringSync(text: string): Line[] };
  export default parser;
}
