import { type CountryCode, getCountries, isSupportedCountry, parsePhoneNumberFromString } from "libphonenumber-js/min";
import metadata from "libphonenumber-js/min/metadata";

/** Countries whose plans of numbers are known (ISO 3166-1 alpha-2). */
export const COUNTRIES: readonly string[] = getCountries();

/** Signs that numbers are written with. */
const WRITTEN = /^[+(]?[\d\s().\-/]{3,}$/;

/**
 * What two ways to write one number have in common: E.164 (ITU-T E.164 §6) where the country's plan says that it is possible, else its digits; of an address
 * or a name its small letters. Null: it names nobody. `country`: whose numbers stand without a country code (ISO 3166-1 alpha-2).
 */
export function addressKey(address: string | undefined, country: string | null = null): string | null {
  const text = address?.trim() ?? "";
  if (text === "") return null;
  if (!WRITTEN.test(text)) return text.toLowerCase();
  const known = country && isSupportedCountry(country) ? (country as CountryCode) : undefined;
  const number = parsePhoneNumberFromString(text, known);
  return number?.isPossible() ? number.number : text.replace(/\D/g, "");
}

/** The country that most numbers with a country code are of: those without one are likely of it too. */
export function countryOf(addresses: Iterable<string>): string | null {
  const counts = new Map<string, number>();
  for (const address of addresses) {
    const number = address.startsWith("+") ? parsePhoneNumberFromString(address) : undefined;
    // Of countries that share a code the first is the one that it was given to.
    const country = number && (number.country ?? metadata.country_calling_codes[number.countryCallingCode]?.[0]);
    if (country) counts.set(country, (counts.get(country) ?? 0) + 1);
  }
  return [...counts].sort((a, b) => b[1] - a[1])[0]?.[0] ?? null;
}
