import createClient, { type Middleware } from 'openapi-fetch';
import type { components, paths } from './schema';

export type Schemas = components['schemas'];
export type Problem = Schemas['Problem'];

/** What the server (or the way to it) refused, as one thing to catch. */
export class ApiError extends Error {
  constructor(
    readonly status: number,
    readonly problem: Problem
  ) {
    super(problem.detail);
  }

  /** No answer came: the network is down or the server is away. */
  get isOffline(): boolean {
    return this.status === 0;
  }

  get code(): string {
    return this.problem.code;
  }
}

/** Called when the session has ended, so that the page can ask to sign in again without losing its place. */
let sessionEnded: () => void = () => {};
export function onSessionEnded(call: () => void): void {
  sessionEnded = call;
}

function xsrf(): string {
  const value = document.cookie.match(/(?:^|; )XSRF-TOKEN=([^;]*)/)?.[1];
  return value ? decodeURIComponent(value) : '';
}

/** One try more with a fresh token: it changes with every sign-in, also in another tab. */
async function withToken(request: Request): Promise<Response> {
  const again = request.clone();
  if (request.method !== 'GET' && request.method !== 'HEAD') request.headers.set('X-XSRF-TOKEN', xsrf());
  const response = await fetch(request);
  if (response.status !== 419) return response;
  await fetch('/api/v1/session', { credentials: 'same-origin', headers: { Accept: 'application/json' } });
  again.headers.set('X-XSRF-TOKEN', xsrf());
  return fetch(again);
}

const watch: Middleware = {
  onResponse({ response, schemaPath }) {
    if (response.status === 401 && schemaPath !== '/session') sessionEnded();
    return response;
  }
};

export const api = createClient<paths>({
  baseUrl: '/api/v1',
  credentials: 'same-origin',
  headers: { Accept: 'application/json' },
  fetch: withToken
});
api.use(watch);

type Answer<T> = { data?: T; error?: Problem; response: Response };

/** The data of an answer, or an ApiError. */
export async function ask<T>(call: Promise<Answer<T>>): Promise<T> {
  let answer: Answer<T>;
  try {
    answer = await call;
  } catch {
    throw new ApiError(0, {
      type: 'about:blank',
      title: 'Offline',
      status: 0,
      code: 'offline',
      detail: 'the server does not answer; what you did is kept here'
    });
  }
  if (answer.error !== undefined || !answer.response.ok) {
    const status = answer.response.status;
    throw new ApiError(
      status,
      answer.error?.code
        ? answer.error
        : { type: 'about:blank', title: 'Error', status, code: 'failed', detail: `the server answered ${status}` }
    );
  }
  return answer.data as T;
}

/** Sends a piece of a file as raw bytes. */
export async function sendPiece(
  project: number,
  importId: number,
  file: number,
  offset: number,
  piece: Blob
): Promise<Schemas['ImportFile']> {
  let response: Response;
  try {
    response = await withToken(
      new Request(`/api/v1/projects/${project}/imports/${importId}/files/${file}?offset=${offset}`, {
        method: 'PUT',
        credentials: 'same-origin',
        headers: { Accept: 'application/json', 'Content-Type': 'application/octet-stream' },
        body: piece
      })
    );
  } catch {
    throw new ApiError(0, { type: 'about:blank', title: 'Offline', status: 0, code: 'offline', detail: 'the server does not answer' });
  }
  const body = await response.json();
  if (!response.ok) throw new ApiError(response.status, body);
  return body;
}
