/** Notices of systems: subject, and sentences of the text. */
export const NOTICES: readonly (readonly [string, string])[] = [
  [
    'Please sign: frame contract',
    'PERSON has sent you a document to review and sign. Review document: https://sign.example/d/8812. Do not share this email.',
  ],
  [
    'Completed: frame contract',
    'All parties have signed the document. You can download the completed document: https://sign.example/d/8812. This is an automated message.',
  ],
  [
    'Dokument zur Unterschrift: Rahmenvertrag',
    'PERSON hat Ihnen ein Dokument zur elektronischen Unterschrift gesendet. Dokument ansehen: https://sign.example/d/1. Diese E-Mail wurde automatisch erstellt.',
  ],
  [
    'Your shipment is on its way',
    'Your parcel has been dispatched. Tracking number: 00340434161094042557. Track your shipment: https://track.example/t',
  ],
  [
    'Ihre Sendung ist unterwegs',
    'Ihr Paket wurde versandt. Sendungsnummer: 00340434161094042557. Sendung verfolgen: https://track.example/t',
  ],
  ['Votre colis est en route', 'Votre colis a été expédié. Numéro de suivi : 6A12345678901. Suivre mon colis : https://track.example/t'],
  ['New fax from +49 40 5551234', 'You have received a new fax. Sender: +49 40 5551234, 2 pages. The fax is attached as a PDF.'],
  ['Fax empfangen von +49 40 5551234', 'Sie haben ein neues Fax erhalten. Absender: +49 40 5551234, Seiten: 2.'],
  [
    '[Ticket#2026103110000021] Pump alarm',
    'Your request has been received and a ticket has been created. Ticket number: 2026103110000021. Please do not change the subject when replying.',
  ],
  [
    'Case 00128813 has been created',
    'Thank you for contacting us. Your case number is 00128813. ##- Please type your reply above this line -##',
  ],
  [
    'Ihre Anfrage (Ticket 4471)',
    'Ihre Anfrage ist bei uns eingegangen und wird unter der Ticketnummer 4471 bearbeitet. Dies ist eine automatisch generierte Nachricht.',
  ],
  [
    'Votre demande n° 88123 a été enregistrée',
    'Votre demande a bien été enregistrée sous le numéro 88123. Ceci est un message automatique, merci de ne pas y répondre.',
  ],
];

/** People about the same matters as the notices. */
export const ABOUT_NOTICES = [
  [
    'Please sign the contract',
    'I put the contract into the post, please sign it and send it back by Friday. Is the delivery date still right?',
  ],
  ['Tracking number?', 'Where is our parcel? You sent a tracking number last week, but the carrier does not know it.'],
  ['Ticket 4471', 'What happens with our ticket 4471? The pump still stands still, please call me.'],
  ['Fax', 'Our fax is broken, please send the order confirmation by email.'],
  ['Wo bleibt die Sendung?', 'Die Sendung ist noch nicht da, können Sie bitte nachfragen? Die Sendungsnummer habe ich nicht.'],
  ['Signed contract attached', 'Attached is the signed contract. When can you deliver?'],
  ['Automatic gate', 'The automatic gate does not answer, can someone come by?'],
  ['Out of office hours delivery', 'Could your driver come outside office hours, say at seven in the evening?'],
  ['Read: the manual, chapter 4', 'As you asked I read the manual, chapter 4. It does not say how to reset the logger. How is it done?'],
] as const;
