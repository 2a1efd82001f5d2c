import { registrableDomain } from '../domain/domain';
import { ownText } from './bodyParts';

/** That a company has another name or other addresses from now on, in the main European languages. */
const ANNOUNCES =
  /(?<!\p{L})(?:(?:has|have) (?:been )?(?:re-?named|re-?branded|changed (?:its|our) name)|(?:is|are) now (?:called|known as|part of)|new (?:company |e-?mail |mail |our )?(?:name|domain|address(?:es)?|e-?mail)|address(?:es)? (?:has|have|will|is|are) chang|(?:heißen|heissen|firmieren) (?:jetzt|künftig|nun|ab)|umbenannt|umfirmiert|neue[nrs]? (?:firmen|e-?mail-?|mail-?)?\s?(?:name|namen|adressen?|domain)|nouve(?:au|lle)s? (?:nom|domaine|adresses?)|(?:s'appelle|devient) désormais|nuev[oa]s? (?:nombre|dominio|direcci[oó]n(?:es)?)|nuov[oi] (?:nome|dominio|indirizz[oi])|nieuwe (?:naam|domein|e-?mail-?adres(?:sen)?|adres(?:sen)?)|(?:nytt|nye|nya|ny) (?:navn|namn|domene|domän|e-?post-?adress(?:e|er)?|adress(?:e|er)?)|now[ay] (?:nazwa|adres|domena)|uusi (?:nimi|osoite|verkkotunnus))/iu;
const DOMAIN =
  /(?<![\p{L}\d.-])(?:[\p{L}\d._%+-]{1,64}@)?((?:[\p{L}\d](?:[\p{L}\d-]{0,61}[\p{L}\d])?\.){1,4}[\p{L}]{2,24})(?![\p{L}\d-])/gu;
const MOST_TEXT = 4000;
const MOST_DOMAINS = 3;

/** A query for a text index (in the form of `to_tsquery`) that finds every announcement, and not much else. */
export const ANNOUNCING_QUERY = [
  'renamed | rebranded | umbenannt | umfirmiert | firmieren | désormais',
  '(has | have) <2> name | is <-> now | are <-> now | (has | have | will) <-> (change | changed)',
  '(heißen | heissen) <-> (jetzt | künftig | nun | ab)',
  'new <-> (company | our | name | domain | address | addresses | email | e-mail | mail)',
  '(neue | neuer | neuen | neues) <-> (firmenname | firmennamen | name | namen | adresse | adressen | domain | e-mail | e-mailadresse | e-mailadressen | e-mail-adresse | e-mail-adressen | mailadresse | mailadressen | mail-adresse)',
  '(nouveau | nouvelle | nouvelles) <-> (nom | domaine | adresse | adresses)',
  '(nuevo | nueva | nuevas) <-> (nombre | dominio | dirección | direccion | direcciones)',
  '(nuovo | nuovi) <-> (nome | dominio | indirizzo | indirizzi)',
  'nieuwe <-> (naam | domein | adres | adressen | e-mailadres | e-mailadressen | emailadres)',
  '(nytt | nye | nya | ny) <-> (navn | namn | domene | domän | adresse | adresser | adress | adresser | e-post | e-postadresse | e-postadress)',
  '(nowy | nowa | nowe) <-> (nazwa | adres | domena)',
  'uusi <-> (nimi | osoite | verkkotunnus)',
].join(' | ');

/**
 * The registrable domains that the sender's own words announce as theirs from now on: they stand in the sentence that says so, or in one of the two
 * after it, and are not the domain that the email came from.
 */
export function announcedDomains(text: string, senderDomain: string): string[] {
  const own = ownText(text.slice(0, MOST_TEXT));
  if (!ANNOUNCES.test(own)) return [];
  const sentences = own.split(/(?<=[.!?:])\s+|\n{2,}/);
  const from = registrableDomain(senderDomain);
  const found: string[] = [];
  for (const [at, sentence] of sentences.entries()) {
    if (!ANNOUNCES.test(sentence)) continue;
    for (const near of sentences.slice(at, at + 3))
      for (const [, written = ''] of near.matchAll(DOMAIN)) {
        const domain = registrableDomain(written.toLowerCase());
        if (domain !== null && domain !== from && !found.includes(domain) && found.length < MOST_DOMAINS) found.push(domain);
      }
  }
  return found;
}
