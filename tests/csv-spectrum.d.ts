declare module 'csv-spectrum' {
  /** Gives every case of the suite: a CSV file and what it must be read as. */
  export default function spectrum(
    done: (error: Error | null, cases: { name: string; csv: Buffer; json: Buffer }[]) => void,
  ): void
}
