import type { DocumentContent } from '@fulvet/contract';

/** A document of the demo with the text of each of its versions, the oldest first. */
export interface DemoDocument {
  content: DocumentContent;
  versions: readonly { name: string; lines: readonly string[] }[];
}

/** What the sales team of the made-up company sends along with its emails. */
export function demoDocuments(year: number): readonly DemoDocument[] {
  return [
    {
      content: { title: 'Price list', topic: 'Prices and terms', scope: 'all', language: 'en', validUntil: `${year + 1}-12-31` },
      versions: [
        {
          name: `Price list ${year - 1}.pdf`,
          lines: [`Price list ${year - 1}`, 'Tide gauge TG-4: 2,350.00', 'Radar gauge RG-2: 3,900.00'],
        },
        { name: `Price list ${year}.pdf`, lines: [`Price list ${year}`, 'Tide gauge TG-4: 2,480.00', 'Radar gauge RG-2: 4,050.00'] },
      ],
    },
    {
      content: { title: 'Terms of delivery', topic: 'Prices and terms', scope: 'all', language: 'en' },
      versions: [{ name: 'Terms of delivery.pdf', lines: ['Terms of delivery', 'Delivery within six weeks, free to the quay.'] }],
    },
    {
      content: { title: 'Lieferbedingungen', topic: 'Prices and terms', scope: 'all', language: 'de' },
      versions: [{ name: 'Lieferbedingungen.pdf', lines: ['Lieferbedingungen', 'Lieferung innerhalb von sechs Wochen, frei Kai.'] }],
    },
    {
      content: { title: 'Tide gauge TG-4', topic: 'Data sheets', scope: 'all', language: 'en' },
      versions: [{ name: 'TG-4 data sheet.pdf', lines: ['Tide gauge TG-4', 'Range 0 to 12 m, accuracy 3 mm, 24 V'] }],
    },
    {
      content: { title: 'Radar gauge RG-2', topic: 'Data sheets', scope: 'all', language: 'en' },
      versions: [{ name: 'RG-2 data sheet.pdf', lines: ['Radar gauge RG-2', 'Range 0 to 30 m, accuracy 2 mm, 24 V'] }],
    },
  ];
}

/** A page with a few lines as a PDF (ISO 32000-1); letters beyond Latin-1 are not in its font. */
export function pdfOf(lines: readonly string[]): Buffer {
  const escaped = (line: string): string => line.replace(/[\\()]/g, '\\$&');
  const text = lines.map((line, at) => `/F1 ${at === 0 ? 22 : 12} Tf (${escaped(line)}) Tj 0 -28 Td`).join('\n');
  const content = `BT 72 740 Td\n${text}\nET`;
  const objects = [
    '<< /Type /Catalog /Pages 2 0 R >>',
    '<< /Type /Pages /Kids [3 0 R] /Count 1 >>',
    '<< /Type /Page /Parent 2 0 R /MediaBox [0 0 595 842] /Contents 4 0 R /Resources << /Font << /F1 5 0 R >> >> >>',
    `<< /Length ${Buffer.byteLength(content, 'latin1')} >>\nstream\n${content}\nendstream`,
    '<< /Type /Font /Subtype /Type1 /BaseFont /Helvetica /Encoding /WinAnsiEncoding >>',
  ];
  let pdf = '%PDF-1.4\n';
  const offsets = objects.map((object, at) => {
    const offset = Buffer.byteLength(pdf, 'latin1');
    pdf += `${at + 1} 0 obj\n${object}\nendobj\n`;
    return offset;
  });
  const table = offsets.map((offset) => `${String(offset).padStart(10, '0')} 00000 n \n`).join('');
  const start = Buffer.byteLength(pdf, 'latin1');
  pdf += `xref\n0 ${objects.length + 1}\n0000000000 65535 f \n${table}trailer\n<< /Size ${objects.length + 1} /Root 1 0 R >>\nstartxref\n${start}\n%%EOF\n`;
  return Buffer.from(pdf, 'latin1');
}
