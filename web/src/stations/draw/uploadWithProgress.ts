import { csrfToken } from "../../api/client";

/** Send one file, telling how much has gone (fetch cannot say that); the server's own sentence when it refuses. */
export function uploadWithProgress<T>(
  address: string,
  file: File,
  onSent: (share: number) => void,
  signal: AbortSignal,
): Promise<T> {
  return new Promise((resolve, reject) => {
    const request = new XMLHttpRequest();
    request.open("POST", address);
    request.setRequestHeader("X-CSRFToken", csrfToken());
    request.responseType = "json";
    request.upload.onprogress = (event) => event.lengthComputable && onSent(event.loaded / event.total);
    request.upload.onload = () => onSent(1);
    request.onload = () => {
      const answer = request.response as (T & { detail?: string }) | null;
      if (request.status === 200 && answer) resolve(answer);
      else reject(new Error(answer?.detail ?? `The server answered ${request.status}.`));
    };
    request.onerror = () => reject(new Error("The server could not be reached."));
    request.onabort = () => reject(new Error("Cancelled."));
    signal.addEventListener("abort", () => request.abort());
    const form = new FormData();
    form.append("file", file);
    request.send(form);
  });
}
