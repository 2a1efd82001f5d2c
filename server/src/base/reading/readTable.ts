import { Refusal } from '../refusal';
import type { RecordTable } from '../files/readCsv';
import type { ReaderPool } from './readerPool';
import { ReadingGivenUp } from './readerPool';

/**
 * Reads a file of records in a thread of its own.
 *
 * @returns a refusal when that exceeded the limits
 */
export async function readTable(readers: ReaderPool, text: string, format: 'csv' | 'vcard'): Promise<RecordTable | Refusal> {
  try {
    return await readers.read('table', { text, format });
  } catch (error) {
    if (!(error instanceof ReadingGivenUp)) throw error;
    return new Refusal(
      'unfit',
      'bad-file',
      `The file cannot be read, and nothing was changed. ${error.message} Divide it into smaller files.`,
    );
  }
}
