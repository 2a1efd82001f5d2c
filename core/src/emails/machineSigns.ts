import type { MailClass } from './mailClass';

/** Where a sign stands: at the beginning of the subject, anywhere in what was written, in the sender's address or name. */
export type SignPlace = 'subject' | 'text' | 'sender';

/** Phrases by which mail of machines is known where its headers do not say so, in one language. */
export interface MachineSign {
  kind: Exclude<MailClass, 'person' | 'calendar'>;
  place: SignPlace;
  /** How much it tells; what reaches 1 in all is a machine's. Signs of one `group` count once. */
  weight: number;
  group: string;
  language: string;
  /** In small letters; `…` stands for up to 40 other characters of the same sentence. */
  phrases: readonly string[];
}

const list = (text: string): string[] =>
  text
    .split('|')
    .map((phrase) => phrase.trim())
    .filter(Boolean);

const sign = (
  kind: MachineSign['kind'],
  place: SignPlace,
  group: string,
  weight: number,
  byLanguage: Record<string, string>,
): MachineSign[] =>
  Object.entries(byLanguage).map(([language, phrases]) => ({ kind, place, group, weight, language, phrases: list(phrases) }));

/**
 * The table of signs. A subject alone is never enough but for what mail programs write before the subject that they answer: people write of
 * being away, of failed deliveries and of newsletters as well.
 */
export const MACHINE_SIGNS: readonly MachineSign[] = [
  // Absence notes: the mark before the subject, what is said of being away, and what is said to be done meanwhile.
  ...sign('auto-reply', 'subject', 'mark', 0.6, {
    en: 'out of office | out of the office | automatic reply | auto reply | auto-reply | autoreply | automatic response | auto response | on annual leave | on vacation | on holiday | absence notice | away from office',
    de: 'abwesenheit | abwesenheitsnotiz | abwesenheitsnachricht | abwesenheitsmeldung | automatische antwort | automatische rückantwort | abwesend | nicht im büro | im urlaub | ich bin … nicht im büro | ich bin … abwesend | ich bin … im urlaub | außer haus',
    fr: 'réponse automatique | réponse automatisée | absence du bureau | absent du bureau | absente du bureau | message d’absence | absence | absent | absente | en congé | en congés',
    es: 'respuesta automática | respuesta automatica | fuera de la oficina | fuera de oficina | ausente | ausencia | de vacaciones',
    it: 'risposta automatica | fuori ufficio | fuori sede | assente | assente dall’ufficio | assenza | in ferie',
    nl: 'automatisch antwoord | automatische reactie | afwezig | afwezigheid | niet aanwezig | niet op kantoor | met vakantie',
    no: 'automatisk svar | autosvar | fravær | fraværsmelding | ikke på kontoret | ikke til stede | på ferie | ude af kontoret | ikke på kontoret',
    sv: 'autosvar | automatiskt svar | frånvaro | frånvarande | frånvaromeddelande | ej på kontoret | inte på kontoret | på semester | ledig',
    fi: 'automaattinen vastaus | automaattivastaus | poissa toimistolta | poissaolo | poissaoloilmoitus | lomalla',
    pl: 'automatyczna odpowiedź | odpowiedź automatyczna | autoodpowiedź | poza biurem | nieobecność | nieobecny | nieobecna | urlop',
    pt: 'resposta automática | fora do escritório | ausente | ausência | de férias',
    cs: 'automatická odpověď | mimo kancelář | nepřítomnost | dovolená',
  }),
  ...sign('auto-reply', 'text', 'away', 0.5, {
    en: 'out of the office | out of office | away from my desk | away from the office | on annual leave | on leave until | on vacation | on holiday | on parental leave | currently away | currently out | not in the office | limited access to email | limited access to my email | no access to email | when i am back | when i return',
    de: 'nicht im büro | nicht im haus | außer haus | abwesend | im urlaub | im mutterschutz | in elternzeit | auf dienstreise | nicht erreichbar | wieder erreichbar | ab dem … wieder | keinen zugriff auf meine',
    fr: 'absent du bureau | absente du bureau | suis absent | suis absente | serai absent | serai absente | en congé | en congés | en vacances | de retour le | accès à ma messagerie | accès limité',
    es: 'fuera de la oficina | estoy de vacaciones | estaré ausente | estoy ausente | me encuentro ausente | acceso limitado al correo | de baja hasta',
    it: 'fuori ufficio | sono assente | sarò assente | in ferie | rientro il | rientrerò | non leggo la posta | accesso limitato',
    nl: 'ik ben … afwezig | ben afwezig | met vakantie | niet op kantoor | niet aanwezig | weer bereikbaar | lees mijn e-mail niet | geen toegang tot mijn e-mail',
    no: 'ikke på kontoret | ikke til stede | har ferie | er på ferie | bortreist | leser ikke e-post | er tilbake | begrenset tilgang til e-post | ikke på kontoret | holder ferie',
    sv: 'inte på kontoret | har semester | är på semester | är ledig | föräldraledig | är tillbaka | läser inte min e-post | bortrest',
    fi: 'poissa toimistolta | olen lomalla | olen poissa | palaan | en lue sähköpostia | vuosilomalla',
    pl: 'poza biurem | na urlopie | jestem nieobecny | jestem nieobecna | ograniczony dostęp do poczty | wracam',
    pt: 'fora do escritório | estou de férias | estarei ausente | acesso limitado',
    cs: 'mimo kancelář | na dovolené | nejsem přítomen | nejsem přítomna',
  }),
  ...sign('auto-reply', 'text', 'meanwhile', 0.3, {
    en: 'urgent matters | urgent cases | urgent requests | in urgent | if urgent | in my absence | during my absence',
    de: 'in dringenden fällen | in dringenden angelegenheiten | bei dringenden | meine vertretung | in meiner abwesenheit | während meiner abwesenheit',
    fr: 'en cas d’urgence | pour toute urgence | en mon absence | pendant mon absence',
    es: 'asuntos urgentes | en caso de urgencia | en mi ausencia',
    it: 'per urgenze | in caso di urgenza | in mia assenza',
    nl: 'dringende zaken | voor spoed | bij afwezigheid | tijdens mijn afwezigheid',
    no: 'ved hastesaker | haster det | i mitt fravær',
    sv: 'vid brådskande | brådskande ärenden | under min frånvaro',
    fi: 'kiireellisissä asioissa | kiireellisissä tapauksissa | poissaoloni aikana',
    pl: 'w pilnych sprawach | w sprawach pilnych | podczas mojej nieobecności',
    pt: 'assuntos urgentes | em caso de urgência | na minha ausência',
    cs: 'v naléhavých případech | v nepřítomnosti',
  }),
  ...sign('auto-reply', 'text', 'forwarded', 0.3, {
    en: 'will not be forwarded | is not forwarded',
    de: 'nicht weitergeleitet',
    fr: 'ne sera pas transféré',
    es: 'no será reenviado',
    it: 'non sarà inoltrato',
    nl: 'wordt niet doorgestuurd',
    no: 'blir ikke videresendt | videresendes ikke',
    sv: 'vidarebefordras inte',
    fi: 'ei välitetä eteenpäin',
    pl: 'nie zostanie przekazana',
  }),
  ...sign('auto-reply', 'text', 'thanks', 0.2, {
    en: 'thank you for your email | thank you for your message | will answer your message',
    de: 'vielen dank für ihre nachricht | danke für ihre e-mail | vielen dank für ihre e-mail | vielen dank für ihre mail',
    fr: 'merci pour votre message | merci de votre message | j’ai bien reçu votre message',
    es: 'gracias por su mensaje | gracias por su correo | gracias por tu mensaje',
    it: 'grazie per il messaggio | grazie per la tua email | grazie per la sua',
    nl: 'bedankt voor uw bericht | bedankt voor je bericht | dank voor uw e-mail',
    no: 'takk for din e-post | takk for e-posten | tak for din mail',
    sv: 'tack för ditt mejl | tack för ditt meddelande | tack för ditt mail',
    fi: 'kiitos viestistäsi',
    pl: 'dziękuję za wiadomość',
  }),

  // Delivery failures: the sender, the subject, and the reason.
  ...sign('bounce', 'sender', 'daemon', 0.5, {
    any: 'mailer-daemon | postmaster | mail delivery | maildelivery | mail-daemon | bounce | bounces | delivery-status | mail administrator',
  }),
  ...sign('bounce', 'subject', 'failed', 0.5, {
    en: 'undelivered mail | undeliverable | undelivered | delivery status notification | delivery failure | delivery has failed | mail delivery failed | mail delivery failure | mail system error | returned mail | failure notice | message not delivered | delivery problem',
    de: 'unzustellbar | unzustellbare nachricht | nicht zustellbar | zustellung fehlgeschlagen | zustellungsfehler | nachricht konnte nicht zugestellt | fehler bei der zustellung',
    fr: 'non remis | échec de la remise | échec de remise | message non distribué | non distribuable | échec de distribution | notification d’échec',
    es: 'no se puede entregar | no se pudo entregar | error de entrega | mensaje no entregado | no entregado',
    it: 'non recapitabile | mancato recapito | messaggio non recapitato | impossibile recapitare | errore di consegna',
    nl: 'niet bezorgd | onbestelbaar | bezorging mislukt | niet bestelbaar | kan niet worden bezorgd',
    no: 'kan ikke leveres | ikke levert | levering mislyktes | kunne ikke leveres | ikke leveret',
    sv: 'kan inte levereras | olevererbart | leveransen misslyckades | kunde inte levereras',
    fi: 'toimittamaton | viestin toimitus epäonnistui | ei voitu toimittaa',
    pl: 'niedostarczone | nie można dostarczyć | błąd dostarczenia | nie dostarczono',
    pt: 'não entregue | falha na entrega | não foi possível entregar',
    cs: 'nedoručitelné | nedoručeno | doručení se nezdařilo',
  }),
  ...sign('bounce', 'text', 'reason', 0.5, {
    en: 'could not be delivered | couldn’t be delivered | wasn’t delivered | was not delivered | permanent fatal errors | user unknown | no such user | mailbox unavailable | address couldn’t be found | address not found',
    de: 'konnte nicht zugestellt werden | empfänger unbekannt | nicht bekannt: | konnte nicht übermittelt werden',
    fr: 'n’a pas pu être remis | utilisateur inconnu | a échoué : | n’a pas été remis',
    es: 'no se pudo entregar | usuario desconocido | no ha podido ser entregado',
    it: 'impossibile recapitare | utente sconosciuto | non è stato recapitato',
    nl: 'kon niet worden bezorgd | gebruiker onbekend',
    no: 'kunne ikke leveres | ukjent bruker',
    sv: 'kunde inte levereras | okänd användare',
    fi: 'ei voitu toimittaa | tuntematon käyttäjä',
    pl: 'nie można dostarczyć | nieznany użytkownik',
    pt: 'não foi possível entregar | usuário desconhecido',
    cs: 'nelze doručit | neznámý uživatel',
  }),

  // Receipts that an email was read.
  ...sign('notice', 'subject', 'read', 0.5, {
    en: 'read | read receipt | not read | displayed',
    de: 'gelesen | lesebestätigung | ungelesen gelöscht',
    fr: 'lu | accusé de lecture | non lu',
    es: 'leído | confirmación de lectura',
    it: 'letto | conferma di lettura',
    nl: 'gelezen | leesbevestiging',
    no: 'lest | lesebekreftelse | læst | kvittering',
    sv: 'läst | läskvitto',
    fi: 'luettu | lukukuittaus',
    pl: 'przeczytano | potwierdzenie przeczytania',
    pt: 'lida | recibo de leitura',
    cs: 'přečteno',
  }),
  ...sign('notice', 'text', 'was read', 0.6, {
    en: 'your message was read | your message … was read | this is a receipt for the mail | was displayed on | has been displayed',
    de: 'ihre nachricht wurde gelesen | ihre nachricht … wurde … gelesen | lesebestätigung für',
    fr: 'votre message a été lu | votre message … a été lu',
    es: 'su mensaje fue leído | su mensaje … leído',
    it: 'il messaggio è stato letto | messaggio … è stato letto',
    nl: 'uw bericht is gelezen | uw bericht … is gelezen',
    no: 'meldingen din ble lest | meldingen … ble lest | din besked blev læst',
    sv: 'ditt meddelande lästes | ditt meddelande … lästes',
    fi: 'viestisi luettiin | viestisi … luettiin',
    pl: 'wiadomość została przeczytana | wiadomość … została przeczytana',
    pt: 'sua mensagem foi lida',
  }),

  // Newsletters: how to be taken off, and what else only mailings have.
  ...sign('newsletter', 'text', 'taken off', 0.7, {
    en: 'unsubscribe here | no longer wish to receive | manage your subscription | update your preferences | to unsubscribe | unsubscribe from | email preferences',
    de: 'newsletter abbestellen | nicht mehr erhalten möchten | vom newsletter abmelden | abmelden können sie | aus dem verteiler austragen',
    fr: 'se désabonner | se désinscrire | désinscrivez-vous | ne plus recevoir | gérer vos préférences',
    es: 'darse de baja | darte de baja | cancele su suscripción | cancelar la suscripción | no desea recibir',
    it: 'annulla iscrizione | cancellati qui | cancella iscrizione | non ricevere più | disiscriviti',
    nl: 'afmelden voor | schrijf u uit | uitschrijven | geen e-mails meer ontvangen',
    no: 'meld deg av | avslutt abonnementet | avmeld | frameld | afmeld',
    sv: 'avsluta prenumerationen | avregistrera dig | avprenumerera',
    fi: 'peruuta uutiskirje | poistu postituslistalta | peruuta tilaus',
    pl: 'wypisz się | zrezygnować z subskrypcji | anuluj subskrypcję',
    pt: 'cancelar inscrição | cancelar a subscrição | descadastrar',
    cs: 'odhlásit odběr | odhlásit se z odběru',
  }),
  ...sign('newsletter', 'text', 'in a browser', 0.4, {
    en: 'view this email in your browser | view in browser | view online',
    de: 'im browser ansehen | im browser öffnen | in ihrem browser',
    fr: 'voir dans le navigateur | dans votre navigateur | version en ligne',
    es: 'ver en el navegador | ver en su navegador',
    it: 'visualizza nel browser | nel tuo browser',
    nl: 'bekijk in uw browser | bekijk in je browser',
    no: 'vis i nettleser | se i nettleser | vis i browser',
    sv: 'visa i webbläsaren',
    fi: 'näytä selaimessa',
    pl: 'zobacz w przeglądarce',
    pt: 'ver no navegador',
  }),
  ...sign('newsletter', 'sender', 'news', 0.3, {
    any: 'news | newsletter | marketing | mailing | campaign | campaigns | nyhetsbrev | nieuwsbrief | hello | team',
  }),
  ...sign('newsletter', 'subject', 'news', 0.2, { any: 'newsletter | news | nyhetsbrev | nieuwsbrief | infolettre | uutiskirje' }),

  // Notices of systems.
  ...sign('notice', 'text', 'automatic', 0.6, {
    en: 'this is an automated message | this is an automatic message | automatically generated | do not reply to this | please do not reply | do not share this email | please do not change the subject | type your reply above this line | reply above this line',
    de: 'automatisch generierte | automatisch erstellt | automatisch erzeugt | bitte antworten sie nicht auf diese',
    fr: 'message automatique | ne pas y répondre | merci de ne pas répondre | généré automatiquement',
    es: 'mensaje automático | no responda a este',
    it: 'messaggio automatico | non rispondere a questa',
    nl: 'automatisch gegenereerd | automatisch bericht | niet beantwoorden',
    no: 'automatisk generert | automatisk melding | ikke svar på denne',
    sv: 'automatiskt genererat | automatiskt meddelande | svara inte på detta',
    fi: 'automaattinen viesti | älä vastaa tähän',
    pl: 'wiadomość automatyczna | wygenerowana automatycznie | nie odpowiadać na',
  }),
  ...sign('notice', 'text', 'matter', 0.5, {
    en: 'sent you a document to | review document | completed document | all parties have signed | has been dispatched | track your shipment | track your parcel | tracking number: | received a new fax | new fax | your request has been received | a ticket has been created | ticket number: | case number is | your case number',
    de: 'dokument zur … unterschrift | dokument ansehen | wurde versandt | sendung verfolgen | sendungsnummer: | neues fax erhalten | ihre anfrage ist bei uns eingegangen | ticketnummer | vorgangsnummer',
    fr: 'document à signer | a été expédié | numéro de suivi | suivre mon colis | nouveau fax | a bien été enregistrée | a été enregistrée sous',
    es: 'documento para firmar | ha sido enviado | número de seguimiento | nuevo fax | su solicitud ha sido',
    it: 'documento da firmare | è stato spedito | numero di tracciamento | nuovo fax | la sua richiesta è stata',
    nl: 'document ter ondertekening | is verzonden | volg uw zending | nieuwe fax | uw aanvraag is ontvangen',
    no: 'dokument til signering | er sendt | spor sendingen | ny faks | henvendelsen din er mottatt',
    sv: 'dokument att signera | har skickats | spåra försändelsen | nytt fax | ditt ärende har',
  }),
  ...sign('notice', 'subject', 'matter', 0.5, {
    en: 'please sign | completed | signature requested | your shipment | your parcel | your order has shipped | new fax | fax received | [ticket | [case | case … created | ticket … created',
    de: 'dokument zur unterschrift | ihre sendung | ihr paket | fax empfangen | neues fax | ihre anfrage (ticket | [ticket',
    fr: 'votre colis | votre commande a été | document à signer | nouveau fax | votre demande … enregistrée',
    es: 'su envío | su paquete | documento para firmar',
    it: 'la sua spedizione | documento da firmare',
    nl: 'uw zending | uw pakket',
    no: 'din sending | pakken din',
    sv: 'din försändelse | ditt paket',
  }),
];
