import { ApiError } from './client';

const failed = (status: number, code: string, detail: string): ApiError =>
  new ApiError(status, { type: 'about:blank', title: 'Error', status, code, detail });

async function get(path: string, headers: Record<string, string>, signal?: AbortSignal): Promise<Response> {
  let response: Response;
  try {
    response = await fetch(path, { credentials: 'same-origin', headers, ...(signal && { signal }) });
  } catch (e) {
    if (signal?.aborted) throw e;
    throw failed(0, 'offline', 'the server does not answer');
  }
  if (response.ok) return response;
  const problem = await response.json().catch(() => null);
  throw problem?.code
    ? new ApiError(response.status, problem)
    : failed(response.status, 'failed', `the server answered ${response.status}`);
}

/** A part of a file of the server, from one byte to another, that too. */
export async function range(path: string, from: number, to: number, signal?: AbortSignal): Promise<ArrayBuffer> {
  const response = await get(path, { Range: `bytes=${from}-${to}` }, signal);
  // the whole of a large file in place of a part of it would be taken for that part
  if (response.status !== 206) throw failed(response.status, 'no_range', 'the server sends no parts of files');
  return response.arrayBuffer();
}
export async function whole(path: string, signal?: AbortSignal): Promise<ArrayBuffer> {
  return (await get(path, {}, signal)).arrayBuffer();
}
export async function document<T>(path: string, signal?: AbortSignal): Promise<T> {
  return (await get(path, { Accept: 'application/json' }, signal)).json();
}
