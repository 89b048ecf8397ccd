import { defineConfig } from "vite";

/** The screen's plain logic as modules of its own, for tests that call it table by table. */
export default defineConfig({
  build: {
    outDir: "../.cache/modules",
    emptyOutDir: true,
    minify: false,
    lib: {
      entry: {
        times: "src/document/times.ts",
        delta: "src/document/delta.ts",
        comp: "src/document/comp.ts",
        comp_rows: "src/geometry/comp_rows.ts",
        viewport: "src/geometry/viewport.ts",
        drag_note: "src/gestures/drag_note.ts",
        drag_in_lane: "src/gestures/drag_in_lane.ts",
        drag_handle: "src/gestures/drag_handle.ts",
        draw_line: "src/gestures/draw_line.ts",
        rub_out: "src/gestures/rub_out.ts",
        move_time: "src/gestures/move_time.ts",
        move_pin: "src/gestures/move_pin.ts",
        tempo_map: "src/document/tempo_map.ts",
        choose_notes: "src/gestures/choose_notes.ts",
        place_cursor: "src/gestures/place_cursor.ts",
        extremes: "src/geometry/extremes.ts",
        polyline: "src/geometry/polyline.ts",
        free_place: "src/geometry/free_place.ts",
        handles: "src/geometry/handles.ts",
        hit_test: "src/geometry/hit_test.ts",
        air: "src/geometry/air.ts",
        grid: "src/geometry/grid.ts",
        pitch_names: "src/document/pitch_names.ts",
        rounding: "src/document/rounding.ts",
        values: "src/document/values.ts",
        flags: "src/document/flags.ts",
        tapping: "src/document/tapping.ts",
        song_order: "src/document/song_order.ts",
        time_text: "src/document/time_text.ts",
      },
      formats: ["es"],
    },
  },
});
