import { csrfToken, refusalOf } from "./client";

/** A form with files to `path`, with its progress from 0 to 1; rejects with the server's own sentence. */
export function sendForm<T>(
  path: string,
  fields: Record<string, string | File>,
  progress: (share: number) => void = () => undefined,
): Promise<T> {
  return new Promise((resolve, reject) => {
    const request = new XMLHttpRequest();
    request.open("POST", path);
    request.setRequestHeader("X-CSRFToken", csrfToken());
    request.upload.onprogress = (event) => {
      if (event.lengthComputable) progress(event.loaded / event.total);
    };
    request.onerror = () => {
      reject(refusalOf(0, { title: "It did not arrive; is Gelvet still running? Send it again." }));
    };
    request.onload = () => {
      const body = parsed(request.responseText);
      if (request.status >= 200 && request.status < 300) resolve(body as T);
      else reject(refusalOf(request.status, body));
    };
    const form = new FormData();
    for (const [name, value] of Object.entries(fields)) form.append(name, value);
    request.send(form);
  });
}

function parsed(text: string): unknown {
  try {
    return JSON.parse(text);
  } catch {
    return null;
  }
}
