/** The texts by name, in each language that ships. A part in braces is a value. */

const en = {
  'front-page': 'Go to the front page',
  'not-found-title': 'Not found',
  'not-found-text': 'There is no page at this address.',
  'file-not-found-text': 'There is no file at this address.',
  'address-invalid-title': 'Invalid address',
  'address-invalid-text': 'The address cannot be read.',
  'address-too-long-title': 'Address too long',
  'address-too-long-text': 'The address has too many characters.',
  'method-not-allowed-title': 'Method not allowed',
  'method-not-allowed-text': 'This address only answers {methods}.',
  'failed-title': 'Something went wrong',
  'failed-text': 'The page could not be rendered. If it happens again, please report the number {number}.',
  'too-many-title': 'Too many requests',
  'too-many-text': 'There are too many requests from your address. Please try again in {seconds} s.',
  'unavailable-title': 'Back in a moment',
  'unavailable-text': 'The blog’s database does not respond. Please try again shortly.',
  'form-refused-title': 'Not accepted',
  'form-refused-text': 'This form was sent from another site.',
  'form-too-large-title': 'Form too large',
  'form-too-large-text': 'The form is larger than {limit}.',
  'form-unreadable-title': 'Form not readable',
  'form-type-text': 'Forms must be sent as application/x-www-form-urlencoded.',
  'form-incomplete-text': 'The form did not arrive completely.',
  'comments-closed-title': 'Comments are closed',
  'comments-closed-text': 'Comments on this post are closed.',
  'comment-name-missing': 'Enter a name to show with your comment.',
  'comment-name-too-long': 'The name has {length} characters; the maximum is {maximum}.',
  'comment-text-missing': 'The comment is empty.',
  'comment-text-too-long': 'The comment has {length} characters; the maximum is {maximum}.',
  'comment-email-missing': 'Enter your e-mail address. It is not published.',
  'comment-email-invalid': 'This is not an e-mail address. It should look like name@example.org.',
  'comment-email-for-replies': 'Enter the e-mail address for replies. It is not published.',
  'comment-email-unconfirmed':
    'We have already sent this address several confirmation e-mails. Confirm one of them, or send your comment without asking for e-mails about replies.',
  'comment-site-missing': 'Enter the address of your website.',
  'comment-site-invalid': 'This is not the address of a website. It should look like https://example.org.',
  'comment-too-many':
    'There are too many comments from your address at the moment. Your text is still here; please try again in {minutes} min.',
  'comment-too-many-on-post':
    'This post is getting too many comments at the moment. Your text is still here; please try again in {minutes} min.',
  'comment-form-unknown':
    'The form has expired or could not be verified. Your text is still here; please send it again.',
  'comment-form-used':
    'This form has already been sent with a different text. Send it again to add a second comment.',
  'comment-parent-unknown':
    'The comment you replied to is no longer there. Send yours again to add it as a new comment.',
  'comment-not-editable': 'This comment can no longer be edited.',
  'comment-anonymous': 'Anonymous',
  'comment-erased': 'Removed at the writer’s request',
  'mail-author-one': 'A comment on “{title}”',
  'mail-author-many': '{count} new comments',
  'mail-author-more': 'And {count} more.',
  'mail-author-waiting': 'Awaiting approval: {count}',
  'mail-reply-subject': '{name} replied on “{title}”',
  'mail-reply-text': '{name} replied in the thread of your comment on “{title}”:',
  'mail-reply-why': 'You asked for e-mails about replies to your comment on “{title}”.',
  'mail-stop': 'Stop these e-mails:',
  'mail-confirm-subject': 'Confirm e-mails about replies on “{title}”',
  'mail-confirm-text':
    'Someone, presumably you, commented on “{title}” ({blog}) and asked for an e-mail to this address whenever someone replies. To confirm, open this page:',
  'mail-confirm-why':
    'If this was not you, ignore this e-mail. You will not get any others unless you confirm.',
  'mail-page-title': 'E-mails about replies',
  'mail-page-ask': 'Do you want an e-mail at {address} when someone replies to your comment on “{title}”?',
  'mail-page-on': 'You will get an e-mail at {address} when someone replies to your comment on “{title}”.',
  'mail-page-off': 'You will not get e-mails at {address} about replies to your comment on “{title}”.',
  'mail-page-gone': 'The comment that this link belongs to no longer exists, or the link is not complete.',
  'mail-do-confirm': 'Yes, e-mail me',
  'mail-do-stop': 'Stop e-mails about this comment',
  'mail-do-stop-all': 'Stop e-mails about all my comments',
  'just-now': 'just now',
}

export type MessageName = keyof typeof en

const de: Record<MessageName, string> = {
  'front-page': 'Zur Startseite',
  'not-found-title': 'Nicht gefunden',
  'not-found-text': 'Unter dieser Adresse gibt es keine Seite.',
  'file-not-found-text': 'Unter dieser Adresse gibt es keine Datei.',
  'address-invalid-title': 'Ungültige Adresse',
  'address-invalid-text': 'Die Adresse kann nicht gelesen werden.',
  'address-too-long-title': 'Adresse zu lang',
  'address-too-long-text': 'Die Adresse hat zu viele Zeichen.',
  'method-not-allowed-title': 'Methode nicht erlaubt',
  'method-not-allowed-text': 'Diese Adresse beantwortet nur {methods}.',
  'failed-title': 'Etwas ist schiefgegangen',
  'failed-text':
    'Die Seite konnte nicht erzeugt werden. Wenn das wieder vorkommt, geben Sie bitte die Nummer {number} an.',
  'too-many-title': 'Zu viele Anfragen',
  'too-many-text':
    'Von Ihrer Adresse kommen zu viele Anfragen. Bitte versuchen Sie es in {seconds} s noch einmal.',
  'unavailable-title': 'Gleich wieder da',
  'unavailable-text': 'Die Datenbank des Blogs antwortet nicht. Bitte versuchen Sie es gleich noch einmal.',
  'form-refused-title': 'Nicht angenommen',
  'form-refused-text': 'Dieses Formular wurde von einer anderen Website gesendet.',
  'form-too-large-title': 'Formular zu groß',
  'form-too-large-text': 'Das Formular ist größer als {limit}.',
  'form-unreadable-title': 'Formular nicht lesbar',
  'form-type-text': 'Formulare müssen als application/x-www-form-urlencoded gesendet werden.',
  'form-incomplete-text': 'Das Formular ist nicht vollständig angekommen.',
  'comments-closed-title': 'Kommentare sind geschlossen',
  'comments-closed-text': 'Die Kommentare zu diesem Beitrag sind geschlossen.',
  'comment-name-missing': 'Geben Sie einen Namen ein, der bei Ihrem Kommentar steht.',
  'comment-name-too-long': 'Der Name hat {length} Zeichen; erlaubt sind höchstens {maximum}.',
  'comment-text-missing': 'Der Kommentar ist leer.',
  'comment-text-too-long': 'Der Kommentar hat {length} Zeichen; erlaubt sind höchstens {maximum}.',
  'comment-email-missing': 'Geben Sie Ihre E-Mail-Adresse ein. Sie wird nicht veröffentlicht.',
  'comment-email-invalid': 'Das ist keine E-Mail-Adresse. Sie sollte aussehen wie name@example.org.',
  'comment-email-for-replies':
    'Geben Sie die E-Mail-Adresse für Antworten ein. Sie wird nicht veröffentlicht.',
  'comment-email-unconfirmed':
    'Diese Adresse hat schon mehrere Mails bekommen, die nicht bestätigt wurden. Bestätigen Sie eine davon, oder senden Sie Ihren Kommentar ohne Mails über Antworten.',
  'comment-site-missing': 'Geben Sie die Adresse Ihrer Website ein.',
  'comment-site-invalid': 'Das ist keine Adresse einer Website. Sie sollte aussehen wie https://example.org.',
  'comment-too-many':
    'Von Ihrer Adresse kommen gerade zu viele Kommentare. Ihr Text ist noch da; bitte senden Sie ihn in {minutes} min noch einmal.',
  'comment-too-many-on-post':
    'Zu diesem Beitrag kommen gerade zu viele Kommentare. Ihr Text ist noch da; bitte senden Sie ihn in {minutes} min noch einmal.',
  'comment-form-unknown':
    'Das Formular konnte nicht geprüft werden. Ihr Text ist noch da; bitte senden Sie ihn noch einmal.',
  'comment-form-used':
    'Dieses Formular wurde schon mit einem anderen Text gesendet. Senden Sie es noch einmal, um einen zweiten Kommentar zu schreiben.',
  'comment-parent-unknown':
    'Den Kommentar, auf den Sie antworten, gibt es nicht mehr. Senden Sie das Formular noch einmal, um einen eigenen Kommentar zu schreiben.',
  'comment-not-editable': 'Dieser Kommentar kann nicht mehr geändert werden.',
  'comment-anonymous': 'Anonym',
  'comment-erased': 'Auf Wunsch gelöscht',
  'mail-author-one': 'Ein Kommentar zu „{title}“',
  'mail-author-many': '{count} neue Kommentare',
  'mail-author-more': 'Und {count} weitere.',
  'mail-author-waiting': 'Warten auf Freigabe: {count}',
  'mail-reply-subject': '{name} hat geantwortet: „{title}“',
  'mail-reply-text': '{name} hat unter Ihrem Kommentar zu „{title}“ geantwortet:',
  'mail-reply-why': 'Sie wollten Mails über Antworten auf Ihren Kommentar zu „{title}“.',
  'mail-stop': 'Keine dieser Mails mehr:',
  'mail-confirm-subject': 'Bitte bestätigen: Mails über Antworten zu „{title}“',
  'mail-confirm-text':
    'Jemand, vermutlich Sie, hat „{title}“ ({blog}) kommentiert und möchte Mails an diese Adresse, wenn darauf geantwortet wird. Wenn Sie das wollen, öffnen Sie diese Seite und bestätigen Sie es:',
  'mail-confirm-why':
    'Wenn Sie es nicht waren, brauchen Sie nichts zu tun. Ohne Ihre Bestätigung folgen keine weiteren Mails.',
  'mail-page-title': 'Mails über Antworten',
  'mail-page-ask':
    'Möchten Sie eine Mail an {address}, wenn jemand auf Ihren Kommentar zu „{title}“ antwortet?',
  'mail-page-on': 'An {address} geht eine Mail, wenn jemand auf Ihren Kommentar zu „{title}“ antwortet.',
  'mail-page-off': 'An {address} gehen keine Mails über Antworten auf Ihren Kommentar zu „{title}“.',
  'mail-page-gone': 'Den Kommentar zu diesem Link gibt es nicht mehr, oder der Link ist nicht vollständig.',
  'mail-do-confirm': 'Ja, bitte',
  'mail-do-stop': 'Keine Mails zu diesem Kommentar',
  'mail-do-stop-all': 'Keine Mails zu irgendeinem meiner Kommentare',
  'just-now': 'gerade eben',
}

/** By the primary subtag of the language. */
export const TEXTS: Readonly<Record<string, Readonly<Record<MessageName, string>>>> = { en, de }

export const MESSAGE_NAMES = Object.keys(en) as MessageName[]
