/** How machines write in several languages, and how people write of the same matters: for worlds of mail whose class is known. */
export interface Tongue {
  language: string;
  absentSubject: readonly string[];
  /** Sentences of absence notes; DATE and PERSON are filled in. */
  absent: readonly string[];
  contact: readonly string[];
  failedSubject: readonly string[];
  failed: readonly string[];
  readSubject: readonly string[];
  read: readonly string[];
  unsubscribe: readonly string[];
  news: readonly string[];
  /** What people write of being away, of failed deliveries, of newsletters. */
  people: readonly string[];
}

export const TONGUES: readonly Tongue[] = [
  {
    language: 'en',
    absentSubject: [
      'Out of office',
      'Automatic reply: SUBJECT',
      'Out of Office: SUBJECT',
      'Auto reply: SUBJECT',
      'Out of the office until DATE',
      'On annual leave',
    ],
    absent: [
      'I am out of the office until DATE and will answer your message when I am back.',
      'Thank you for your email. I am currently on annual leave and will return on DATE.',
      'I am away from my desk from today and back on DATE, with limited access to email.',
      'I will be out of the office starting today and will return DATE.',
    ],
    contact: ['For urgent matters please contact PERSON.', 'In urgent cases please write to PERSON.', 'Your email will not be forwarded.'],
    failedSubject: [
      'Undelivered Mail Returned to Sender',
      'Delivery Status Notification (Failure)',
      'Undeliverable: SUBJECT',
      'Mail delivery failed: returning message to sender',
      'Returned mail: see transcript for details',
    ],
    failed: [
      'Your message to ADDRESS could not be delivered. 550 5.1.1 User unknown',
      'The following address had permanent fatal errors: <ADDRESS> (reason: 550 5.1.1 no such user)',
      "Address not found: your message wasn't delivered to ADDRESS because the address couldn't be found.",
    ],
    readSubject: ['Read: SUBJECT', 'Read receipt: SUBJECT'],
    read: ['Your message was read on DATE.', 'This is a receipt for the mail that you sent to ADDRESS. It was displayed on DATE.'],
    unsubscribe: [
      'Unsubscribe',
      'If you no longer wish to receive these emails, unsubscribe here: https://news.example/u/1',
      'Manage your subscription or unsubscribe',
    ],
    news: ['Our news in spring', 'View this email in your browser', 'Save the date: our trade fair', 'This month at the works'],
    people: [
      'I will be out of the office on Friday, can we talk on Monday instead?',
      'Do you offer out of office hours delivery?',
      'My last mail to Ole came back as undeliverable, what is his address?',
      'Please unsubscribe us from the price list, and send the offer again.',
      'I saw your newsletter and have a question about the gauges.',
    ],
  },
  {
    language: 'de',
    absentSubject: [
      'Abwesenheitsnotiz',
      'Abwesenheit: SUBJECT',
      'Automatische Antwort: SUBJECT',
      'Ich bin bis DATE nicht im Büro',
      'Abwesend bis DATE',
    ],
    absent: [
      'Vielen Dank für Ihre Nachricht. Ich bin bis zum DATE nicht im Büro.',
      'Ich bin ab heute abwesend und ab dem DATE wieder erreichbar.',
      'Ich befinde mich derzeit im Urlaub und bin am DATE wieder für Sie da.',
      'Bis einschließlich DATE bin ich außer Haus und habe keinen Zugriff auf meine E-Mails.',
    ],
    contact: [
      'In dringenden Fällen wenden Sie sich bitte an PERSON.',
      'Ihre E-Mail wird nicht weitergeleitet.',
      'Meine Vertretung übernimmt PERSON.',
    ],
    failedSubject: [
      'Unzustellbar: SUBJECT',
      'Nachricht konnte nicht zugestellt werden',
      'Zustellung fehlgeschlagen',
      'Unzustellbare Nachricht',
    ],
    failed: [
      'Ihre Nachricht an ADDRESS konnte nicht zugestellt werden. 550 5.1.1 Empfänger unbekannt',
      'Die folgende Adresse ist nicht bekannt: ADDRESS. Fehler 5.1.10',
    ],
    readSubject: ['Gelesen: SUBJECT', 'Lesebestätigung: SUBJECT'],
    read: ['Ihre Nachricht wurde gelesen am DATE.', 'Dies ist eine Lesebestätigung für Ihre Nachricht an ADDRESS vom DATE.'],
    unsubscribe: [
      'Newsletter abbestellen',
      'Wenn Sie diesen Newsletter nicht mehr erhalten möchten, klicken Sie hier: https://news.example/ab',
      'Vom Newsletter abmelden',
    ],
    news: ['Unsere Neuheiten im Frühjahr', 'Im Browser ansehen', 'Newsletter April', 'Einladung zur Messe'],
    people: [
      'Ich bin nächste Woche im Urlaub, können wir vorher sprechen?',
      'Meine Mail an Herrn Tamm kam als unzustellbar zurück, haben Sie seine neue Adresse?',
      'Am Freitag bin ich nicht im Büro, rufen Sie mich bitte am Montag an?',
      'Im Newsletter stand etwas von einer neuen Sonde, was kostet sie?',
    ],
  },
  {
    language: 'fr',
    absentSubject: ['Réponse automatique : SUBJECT', 'Absence du bureau', 'Absent du bureau : SUBJECT', 'Message d’absence'],
    absent: [
      'Je suis absent du bureau jusqu’au DATE.',
      'Bonjour, je suis actuellement en congés et de retour le DATE.',
      'Je suis absente jusqu’au DATE inclus et n’ai pas accès à ma messagerie.',
    ],
    contact: [
      'En cas d’urgence, merci de contacter PERSON.',
      'Votre message ne sera pas transféré.',
      'Pour toute urgence, vous pouvez joindre PERSON.',
    ],
    failedSubject: ['Non remis : SUBJECT', 'Échec de la remise', 'Message non distribué', 'Échec de remise : SUBJECT'],
    failed: [
      'Votre message à ADDRESS n’a pas pu être remis. 550 5.1.1 utilisateur inconnu',
      'La remise à ces destinataires a échoué : ADDRESS',
    ],
    readSubject: ['Lu : SUBJECT', 'Accusé de lecture : SUBJECT'],
    read: ['Votre message a été lu le DATE.'],
    unsubscribe: [
      'Se désabonner',
      'Pour ne plus recevoir nos emails, désinscrivez-vous ici : https://news.example/d',
      'Se désinscrire de cette liste',
    ],
    news: ['Nos nouveautés du printemps', 'Voir dans le navigateur', 'La lettre d’avril'],
    people: ['Je serai absent vendredi, pouvez-vous appeler lundi ?', 'Mon message à Mme Lachance est revenu, quelle est son adresse ?'],
  },
  {
    language: 'es',
    absentSubject: ['Respuesta automática: SUBJECT', 'Fuera de la oficina', 'Ausente: SUBJECT'],
    absent: [
      'Estoy fuera de la oficina hasta el DATE.',
      'Gracias por su mensaje. Estoy de vacaciones y vuelvo el DATE.',
      'Estaré ausente hasta el DATE con acceso limitado al correo.',
    ],
    contact: ['Para asuntos urgentes, contacte con PERSON.', 'Su mensaje no será reenviado.'],
    failedSubject: ['No se puede entregar: SUBJECT', 'Error de entrega', 'Mensaje no entregado'],
    failed: ['No se pudo entregar su mensaje a ADDRESS. 550 5.1.1 usuario desconocido'],
    readSubject: ['Leído: SUBJECT', 'Confirmación de lectura: SUBJECT'],
    read: ['Su mensaje fue leído el DATE.'],
    unsubscribe: ['Darse de baja', 'Si no desea recibir más correos, cancele su suscripción: https://news.example/b'],
    news: ['Novedades de primavera', 'Ver en el navegador'],
    people: ['El viernes estoy fuera de la oficina, ¿hablamos el lunes?', '¿Ofrecen entrega fuera de horario?'],
  },
  {
    language: 'it',
    absentSubject: ['Risposta automatica: SUBJECT', 'Fuori ufficio', 'Assente dall’ufficio: SUBJECT'],
    absent: [
      'Sono fuori ufficio fino al DATE.',
      'Grazie per il messaggio. Sono in ferie e rientro il DATE.',
      'Sono assente fino al DATE e non leggo la posta.',
    ],
    contact: ['Per urgenze contattare PERSON.', 'In caso di urgenza scrivere a PERSON.'],
    failedSubject: ['Non recapitabile: SUBJECT', 'Mancato recapito', 'Messaggio non recapitato'],
    failed: ['Impossibile recapitare il messaggio a ADDRESS. 550 5.1.1 utente sconosciuto'],
    readSubject: ['Letto: SUBJECT', 'Conferma di lettura: SUBJECT'],
    read: ['Il messaggio è stato letto il DATE.'],
    unsubscribe: ['Annulla iscrizione', 'Per non ricevere più questa newsletter, cancellati qui: https://news.example/c'],
    news: ['Le novità di primavera', 'Visualizza nel browser'],
    people: ['Venerdì sono fuori ufficio, ci sentiamo lunedì?', 'Il mio messaggio a Chiara è tornato indietro, qual è il suo indirizzo?'],
  },
  {
    language: 'nl',
    absentSubject: ['Automatisch antwoord: SUBJECT', 'Afwezig: SUBJECT', 'Niet aanwezig tot DATE'],
    absent: [
      'Ik ben tot DATE afwezig.',
      'Bedankt voor uw bericht. Ik ben met vakantie en vanaf DATE weer bereikbaar.',
      'Ik ben niet op kantoor tot en met DATE en lees mijn e-mail niet.',
    ],
    contact: ['Neem voor dringende zaken contact op met PERSON.', 'Uw bericht wordt niet doorgestuurd.'],
    failedSubject: ['Niet bezorgd: SUBJECT', 'Onbestelbaar: SUBJECT', 'Bezorging mislukt'],
    failed: ['Uw bericht aan ADDRESS kon niet worden bezorgd. 550 5.1.1 gebruiker onbekend'],
    readSubject: ['Gelezen: SUBJECT', 'Leesbevestiging: SUBJECT'],
    read: ['Uw bericht is gelezen op DATE.'],
    unsubscribe: ['Afmelden voor deze nieuwsbrief', 'Wilt u geen e-mails meer ontvangen? Schrijf u uit: https://news.example/n'],
    news: ['Ons nieuws in het voorjaar', 'Bekijk in uw browser'],
    people: ['Vrijdag ben ik afwezig, kunnen we maandag bellen?', 'In de nieuwsbrief stond een nieuwe sensor, wat kost die?'],
  },
  {
    language: 'no',
    absentSubject: ['Automatisk svar: SUBJECT', 'Fraværsmelding', 'Ikke på kontoret: SUBJECT', 'Autosvar: SUBJECT'],
    absent: [
      'Jeg er ikke på kontoret før DATE.',
      'Takk for din e-post. Jeg har ferie og er tilbake DATE.',
      'Jeg er bortreist til DATE og leser ikke e-post.',
    ],
    contact: ['Ved hastesaker kontakt PERSON.', 'E-posten blir ikke videresendt.'],
    failedSubject: ['Kan ikke leveres: SUBJECT', 'Levering mislyktes', 'Ikke levert: SUBJECT'],
    failed: ['Meldingen til ADDRESS kunne ikke leveres. 550 5.1.1 ukjent bruker'],
    readSubject: ['Lest: SUBJECT', 'Lesebekreftelse: SUBJECT'],
    read: ['Meldingen din ble lest DATE.'],
    unsubscribe: ['Meld deg av nyhetsbrevet', 'Avslutt abonnementet her: https://news.example/m'],
    news: ['Nytt fra oss i vår', 'Vis i nettleser'],
    people: ['Jeg er ikke på kontoret fredag, kan vi ta det mandag?', 'Mailen til Olafsen kom i retur, har du adressen hans?'],
  },
  {
    language: 'sv',
    absentSubject: ['Autosvar: SUBJECT', 'Automatiskt svar: SUBJECT', 'Frånvarande till DATE', 'Ej på kontoret'],
    absent: [
      'Jag är inte på kontoret förrän DATE.',
      'Tack för ditt mejl. Jag har semester och är tillbaka DATE.',
      'Jag är ledig till och med DATE och läser inte min e-post.',
    ],
    contact: ['Vid brådskande ärenden kontakta PERSON.', 'Ditt meddelande vidarebefordras inte.'],
    failedSubject: ['Kan inte levereras: SUBJECT', 'Olevererbart: SUBJECT', 'Leveransen misslyckades'],
    failed: ['Ditt meddelande till ADDRESS kunde inte levereras. 550 5.1.1 okänd användare'],
    readSubject: ['Läst: SUBJECT', 'Läskvitto: SUBJECT'],
    read: ['Ditt meddelande lästes DATE.'],
    unsubscribe: ['Avsluta prenumerationen', 'Avregistrera dig från nyhetsbrevet: https://news.example/s'],
    news: ['Nyheter i vår', 'Visa i webbläsaren'],
    people: ['På fredag är jag ledig, kan vi höras på måndag?', 'Jag läste ert nyhetsbrev, vad kostar givaren?'],
  },
  {
    language: 'fi',
    absentSubject: ['Automaattinen vastaus: SUBJECT', 'Poissa toimistolta', 'Poissaoloilmoitus'],
    absent: [
      'Olen poissa toimistolta DATE asti.',
      'Kiitos viestistäsi. Olen lomalla ja palaan DATE.',
      'Olen poissa enkä lue sähköpostia ennen DATE.',
    ],
    contact: ['Kiireellisissä asioissa ota yhteyttä: PERSON.', 'Viestiäsi ei välitetä eteenpäin.'],
    failedSubject: ['Toimittamaton: SUBJECT', 'Viestin toimitus epäonnistui'],
    failed: ['Viestiäsi vastaanottajalle ADDRESS ei voitu toimittaa. 550 5.1.1 tuntematon käyttäjä'],
    readSubject: ['Luettu: SUBJECT', 'Lukukuittaus: SUBJECT'],
    read: ['Viestisi luettiin DATE.'],
    unsubscribe: ['Peruuta uutiskirje', 'Poistu postituslistalta: https://news.example/f'],
    news: ['Kevään uutiset', 'Näytä selaimessa'],
    people: ['Olen perjantaina poissa, voimmeko puhua maanantaina?'],
  },
  {
    language: 'pl',
    absentSubject: ['Automatyczna odpowiedź: SUBJECT', 'Odpowiedź automatyczna: SUBJECT', 'Poza biurem', 'Nieobecność'],
    absent: [
      'Jestem poza biurem do DATE.',
      'Dziękuję za wiadomość. Jestem na urlopie i wracam DATE.',
      'Do DATE jestem nieobecny i mam ograniczony dostęp do poczty.',
    ],
    contact: ['W pilnych sprawach proszę o kontakt: PERSON.', 'Państwa wiadomość nie zostanie przekazana.'],
    failedSubject: ['Niedostarczone: SUBJECT', 'Nie można dostarczyć: SUBJECT', 'Błąd dostarczenia wiadomości'],
    failed: ['Nie można dostarczyć wiadomości do ADDRESS. 550 5.1.1 nieznany użytkownik'],
    readSubject: ['Przeczytano: SUBJECT', 'Potwierdzenie przeczytania: SUBJECT'],
    read: ['Wiadomość została przeczytana DATE.'],
    unsubscribe: ['Wypisz się z newslettera', 'Aby zrezygnować z subskrypcji, kliknij: https://news.example/p'],
    news: ['Nowości na wiosnę', 'Zobacz w przeglądarce'],
    people: ['W piątek jestem poza biurem, czy możemy porozmawiać w poniedziałek?'],
  },
];
