import type { MiddlewareHandler } from "hono";

/** Names that a browser on this machine may call this server by. */
const LOCAL = /^(127\.0\.0\.1|localhost|\[::1\])(:\d+)?$/;

/** Only this machine's own pages: a foreign page that guesses the port is turned away (Host and Origin, RFC 6454). */
export const onlyLocal: MiddlewareHandler = async (context, next) => {
  const origin = context.req.header("origin");
  const site = context.req.header("sec-fetch-site");
  const foreignOrigin = origin !== undefined && origin !== "null" && !LOCAL.test(origin.replace(/^https?:\/\//, ""));
  if (!LOCAL.test(context.req.header("host") ?? "") || foreignOrigin || origin === "null" || site === "cross-site")
    return context.text("Only for this machine.", 403);
  return next();
};

/**
 * What acts is asked for by this server's own page alone: a page of another port of this machine is foreign too (RFC 6454 §5: an
 * origin is scheme, host and port). Browsers send Origin with every POST (Fetch, "append a request `Origin` header").
 */
export const onlyOwnPage: MiddlewareHandler = async (context, next) =>
  isOwnPage(context.req.header("host"), context.req.header("origin")) ? next() : context.text("Only for Jubar's own page.", 403);

/** Do Host and Origin name this server, and the same one? */
export const isOwnPage = (host: string | undefined, origin: string | undefined): boolean =>
  host !== undefined && LOCAL.test(host) && origin === `http://${host}`;

const HEADERS: Record<string, string> = {
  // Recovered content is hostile: nothing but our own scripts runs, and nothing is asked of any other machine.
  "Content-Security-Policy":
    "default-src 'none'; script-src 'self' 'wasm-unsafe-eval'; worker-src 'self'; style-src 'self' 'unsafe-inline'; img-src 'self' blob: data:; media-src 'self' blob:; font-src 'self'; connect-src 'self'; base-uri 'none'; form-action 'none'; frame-ancestors 'none'",
  "Cross-Origin-Opener-Policy": "same-origin",
  "Cross-Origin-Embedder-Policy": "require-corp",
  "Cross-Origin-Resource-Policy": "same-origin",
  "Referrer-Policy": "no-referrer",
  "X-Content-Type-Options": "nosniff",
};

export const headers: MiddlewareHandler = async (context, next) => {
  for (const [name, value] of Object.entries(HEADERS)) context.header(name, value);
  await next();
};
