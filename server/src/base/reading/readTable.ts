import type { RecordTable } from '../files/readCsv';
import { Refusal } from '../refusal';
import type { ReaderPool } from './readerPool';
import { ReadingGivenUp } from './readerPool';

/**
 * Reads a file of records in a thread of its own.
 *
 * @throws {Refusal} 422 when that exceeded the limits
 */
export async function readTable(readers: ReaderPool, text: string, format: 'csv' | 'vcard'): Promise<RecordTable> {
  try {
    return await readers.read('table', { text, format });
  } catch (error) {
    if (!(error instanceof ReadingGivenUp)) throw error;
    throw new Refusal(
      'unfit',
      'bad-file',
      `The file cannot be read, and nothing was changed. ${error.message} Divide it into smaller files.`,
    );
  }
}
