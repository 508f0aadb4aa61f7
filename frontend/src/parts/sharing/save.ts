import { ask, Refusal } from "../../api/client";

const NAME = /filename\*=UTF-8''([^;]+)|filename="([^"]+)"/;

/** Whether this page is open at the machine that serves it. */
export const isAtDesk = ["localhost", "127.0.0.1", "[::1]"].includes(window.location.hostname);

/** Saves a file that the server makes. From a device on the network a link alone is not enough to be let in by. */
export async function saveFile(address: string): Promise<void> {
  if (isAtDesk) return window.location.assign(address);
  const response = await ask(address);
  if (!response.ok) throw new Refusal(response.status, (await response.json()) as object);
  const [, any, plain] = NAME.exec(response.headers.get("content-disposition") ?? "") ?? [];
  const link = document.createElement("a");
  link.href = URL.createObjectURL(await response.blob());
  link.download = any ? decodeURIComponent(any) : (plain ?? "file");
  link.click();
  setTimeout(() => URL.revokeObjectURL(link.href), 60_000);
}

/** A click on a link to a file of the server. */
export function linkToFile(event: MouseEvent): string | undefined {
  const link = event.target instanceof Element ? event.target.closest("a") : null;
  const to = link?.getAttribute("href");
  return to?.startsWith("/api/") ? to : undefined;
}
