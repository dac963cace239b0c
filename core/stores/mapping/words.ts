/**
 * General words of several languages that columns are named with. They are hints: they decide only between what the contents leave open. No name of
 * any program's table or column stands here.
 */
const WORDS = {
  out: ["out", "outgoing", "outbound", "mine", "own", "fromme", "isme", "self", "sentbyme", "issent", "enviado", "gesendet", "ausgehend", "sortant", "ishod", "inviato"],
  in: ["in", "incoming", "inbound", "received", "receive", "rx", "recibido", "entrante", "empfangen", "eingehend", "entrant", "vhod", "ricevuto"],
  from: ["from", "sender", "author", "src", "source", "by", "von", "absender", "remitente", "autor", "expediteur", "mittente", "ot", "writer"],
  to: ["to", "recipient", "receiver", "dst", "dest", "destination", "target", "an", "empfaenger", "empfänger", "para", "destinatario", "destinataire", "komu"],
  deleted: [
    "deleted", "delete", "removed", "remove", "trash", "trashed", "binned", "bin", "erased", "hidden", "hide", "gone", "recalled", "revoked", "dead", "discarded",
    "borrado", "eliminado", "geloescht", "gelöscht", "verborgen", "supprime", "supprimé", "efface", "udaleno", "cancellato", "archived",
  ],
  edited: [
    "edited", "edit", "changed", "modified", "revised", "revision", "corrected", "amended", "fixed", "updated", "rewritten", "altered", "editado",
    "bearbeitet", "geaendert", "geändert", "modifie", "modifié", "izmeneno", "modificato", "version",
  ],
  draft: ["draft", "unsent", "pending", "outbox", "borrador", "entwurf", "brouillon", "chernovik", "bozza", "composing"],
  sent: [
    "sent", "at", "date", "time", "ts", "timestamp", "when", "moment", "created", "day", "stamp", "fecha", "datum", "zeit", "hora", "enviado", "data", "vremya", "heure", "posted",
  ],
  later: ["read", "seen", "received", "delivered", "opened", "updated", "edited", "changed", "expires", "expiry", "until", "last", "reminder", "played", "synced"],
  text: ["text", "body", "message", "msg", "content", "words", "caption", "txt", "texto", "inhalt", "nachricht", "mensaje", "contenu", "tekst", "say", "said", "load", "payload"],
  title: ["title", "subject", "name", "topic", "caption", "label", "titel", "titulo", "nombre", "nom", "betreff"],
  reply: ["reply", "answer", "quoted", "quote", "parent", "re", "antwort", "respuesta", "reponse", "ref"],
} as const;
export type Meaning = keyof typeof WORDS;

/** The words that a column's name is made of. */
const wordsIn = (name: string): string[] =>
  name
    .replace(/([\p{Ll}\d])(\p{Lu})/gu, "$1 $2")
    .toLowerCase()
    .split(/[^\p{L}]+/u)
    .filter((word) => word.length > 0);

/** Does a name hold a word of that meaning? */
export function hints(name: string, meaning: Meaning): boolean {
  const words = wordsIn(name);
  const known: readonly string[] = WORDS[meaning];
  return words.some((word) => known.includes(word)) || known.includes(words.join(""));
}
