/* Where choices of files are kept under a name. */
import { client, taken, type ExportOptions } from "../api/client";
import type { PresetShelf } from "./PresetPart";
import { t } from "./words";

export const filePresets: PresetShelf<ExportOptions> = {
  key: "presets",
  example: t("screen 2048"),
  list: async () => (await taken(client.GET("/api/presets"))).presets,
  keep: async (name, options) =>
    (await taken(client.POST("/api/presets", { body: { name, options } }))).presets,
  forget: async (id) =>
    (
      await taken(
        client.DELETE("/api/presets/{preset_id}", { params: { path: { preset_id: id } } }),
      )
    ).presets,
};
