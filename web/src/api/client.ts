/** One client for the API: typed from its description, errors as the sentences the server gave. */
import createClient from "openapi-fetch";
import type { components, paths } from "../../generated/schema";

export type Schemas = components["schemas"];

export class Problem extends Error {
  constructor(
    message: string,
    readonly status: number,
    readonly fields: { field?: string; reason?: string }[] = [],
  ) {
    super(message);
  }
}

const NAME = "grandferry.name";
export const myName = () => localStorage.getItem(NAME) ?? "";
export const setMyName = (name: string) => localStorage.setItem(NAME, name);

const client = createClient<paths>({
  baseUrl: location.origin,
  querySerializer: { array: { style: "form", explode: true } },
  fetch: (request: Request) => globalThis.fetch(request),
});
client.use({
  onRequest({ request }) {
    const name = myName();
    if (name && request.method !== "GET") request.headers.set("X-Ferry-Name", encodeURIComponent(name).slice(0, 100));
    return request;
  },
});
export { client };

interface Answer<T> {
  data?: T;
  error?: unknown;
  response: Response;
}

/** The data of an answer; throws a Problem with the server's own sentence. */
export async function take<T>(asked: Promise<Answer<T>>): Promise<T> {
  let answer: Answer<T>;
  try {
    answer = await asked;
  } catch (error) {
    if (error instanceof DOMException && error.name === "AbortError") throw error;
    throw new Problem("Grand Ferry does not answer. Its server may have ended; what you see is as it was last.", 0);
  }
  if (answer.response.status === 401) location.assign("/sign-in");
  if (answer.error !== undefined || !answer.response.ok) {
    const problem = answer.error as { detail?: string; errors?: { field?: string; reason?: string }[] } | undefined;
    const detail =
      typeof problem?.detail === "string" ? problem.detail : `The server answered ${answer.response.status}.`;
    throw new Problem(detail, answer.response.status, problem?.errors ?? []);
  }
  return answer.data as T;
}

export const previewOrigin = () => document.querySelector<HTMLMetaElement>('meta[name="preview"]')?.content ?? "";
