import { answer, api, Refusal, sendFile } from "../api/client";

/** Files that recordings come in. */
export const RECORDING_KINDS = ".wav,.flac,.aif,.aiff,audio/wav,audio/flac,audio/aiff";

/** Bytes sent at one time: a file may be larger than a request. */
const PIECE = 8 * 1024 * 1024;

/** Brings a file in, piece by piece; the name the server has it under. */
export async function bringIn(
  file: File,
  recording: boolean,
  onPart: (part: number) => void,
  stopped: () => boolean,
): Promise<string> {
  const { upload } = await answer(api.POST("/api/uploads", { body: { size: file.size, recording } }));
  for (let at = 0; at < file.size; at += PIECE) {
    if (stopped()) throw new Refusal(0, { title: "Stopped", problems: ["Nothing was changed."] });
    await sendFile(`/api/uploads/${upload}?at=${at}`, file.slice(at, at + PIECE));
    onPart(Math.min(1, (at + PIECE) / file.size));
  }
  return upload;
}
