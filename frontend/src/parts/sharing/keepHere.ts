import { isAtDesk } from "./save";

/** On a device that trusts the server's certificate, the program itself is kept, so that a reload wants no network. */
export function keepHere(): void {
  if (isAtDesk || !window.isSecureContext || !("serviceWorker" in navigator)) return;
  void navigator.serviceWorker.register("/sw.js");
}

/** Whether a reload can do without the server. */
export const isKeptHere = (): boolean =>
  window.isSecureContext && "serviceWorker" in navigator && navigator.serviceWorker.controller !== null;
