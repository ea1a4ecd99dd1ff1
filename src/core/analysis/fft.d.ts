declare module 'fft.js' {
  /** A fast Fourier transform of one size, a power of two. Complex arrays hold real and imaginary parts in turn. */
  export default class FFT {
    constructor(size: number);
    createComplexArray(): number[];
    realTransform(out: number[], data: readonly number[]): void;
    completeSpectrum(spectrum: number[]): void;
    inverseTransform(out: number[], data: readonly number[]): void;
  }
}
