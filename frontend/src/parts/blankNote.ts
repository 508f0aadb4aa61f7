import type { Schemas } from "../api/client";

/** What is said of a take before anybody has said anything. */
export const BLANK_NOTE: Schemas["TakeNote"] = {
  name: "",
  part: "",
  notes: "",
  controls: [],
  measured_peak: null,
  recorded_at: "",
  song_start: null,
  scene: "",
  rating: "",
  guide: false,
  replaces: null,
  guitar: "",
  pickup: "",
  guitar_volume: "",
  tuning: "",
  afterwards: "",
};
