"""How sound is loaded: what is asked for, and what of it each second gets."""

import unittest

from tests.web.modules import ModuleCase

TRACK = """{ id: 'one', channels: 2, sample_rate: 8000, frames: 8000 * 9 + 4000, duration_s: 9.5, offset_s: 0 }"""
# Loads what is named by [from, seconds], then reads some blocks; each sample is its frame, the second channel below 0.
LOADED = """async ([track, rows, read, there]) => {
  const { BlockStore } = await import('/layer.js');
  const asked = [];
  const store = new BlockStore(async (_id, _source, begin, end) => {
    asked.push([begin, end]);
    const n = Math.min(end, there) - begin;
    return Float32Array.from({ length: 2 * n }, (_, i) => i < n ? begin + i : -(begin + i - n)).buffer;
  });
  const of = eval(`(${track})`);
  const source = { kind: 'sung', at: '' };
  for (const [from, seconds] of rows) await store.prepare(of, source, from, seconds, true);
  const found = [];
  for (const index of read) {
    const block = await store.get(of, source, index);
    const [left, right] = [block.getChannelData(0), block.getChannelData(1)];
    found.push([left[0], left[left.length - 1], right[0], right[right.length - 1]]);
  }
  return [asked, found];
}"""
# Waits for a second of eight that are on their way and never come; asks ahead for it then.
WAITED_FOR = """async (track) => {
  const { BlockStore } = await import('/layer.js');
  const asked = [];
  const store = new BlockStore(async (_id, _source, begin, end, ahead) => {
    asked.push([begin / 8000, Math.floor(end / 2000) / 4, ahead]);
    if (begin === 0) await new Promise(() => undefined);
    return new Float32Array(2 * (end - begin)).buffer;
  });
  const of = eval(`(${track})`);
  const source = { kind: 'tuned', at: 'a' };
  void store.prepare(of, source, 0, 8, true);
  await store.get(of, source, 16);
  await store.prepare(of, source, 4, 0.25, true);
  return asked;
}"""
# The first answer fails; a step that sounds the same asks once more.
FAILED = """async (track) => {
  const { BlockStore } = await import('/layer.js');
  let asked = 0;
  const store = new BlockStore(async (_id, _source, begin, end) => {
    asked += 1;
    if (asked === 1) throw new Error('no');
    return new Float32Array(2 * (end - begin)).buffer;
  });
  const of = eval(`(${track})`);
  const [source, next] = [{ kind: 'tuned', at: 'a' }, { kind: 'tuned', at: 'b' }];
  const failed = await store.get(of, source, 3).catch((error) => error.message);
  store.derive('one', 'a', 'b', []);
  await store.get(of, next, 3);
  return [failed, asked];
}"""
# Half a second over a border of blocks, from between two samples; each sample is its frame.
LAID = """async ([track, from, at]) => {
  const { BlockStore, Layer } = await import('/layer.js');
  const store = new BlockStore(async (_id, _source, begin, end) =>
    Float32Array.from({ length: 2 * (end - begin) }, (_, i) => begin + (i % (end - begin))).buffer);
  const context = new OfflineAudioContext(1, 8000, 8000);
  const mono = { ...eval(`(${track})`), channels: 1 };
  const layer = new Layer(context, store, mono, { kind: 'sung', at: '' }, context.destination, 'one');
  await layer.schedule(from, from + 0.5, at);
  await layer.schedule(from + 0.5, from + 0.9, at + 0.5);
  return [...(await context.startRendering()).getChannelData(0)];
}"""
BLOCK = 2000  # frames
BLEND = 64  # frames by which a block reaches into the next


class BlockStoreTest(ModuleCase):
    def loaded(self, rows: list[list[float]], read: list[int], there: int = 76000) -> tuple[list, list]:
        """What was asked for and the ends of some blocks, when the server has so many frames."""
        return self.page.evaluate(LOADED, [TRACK, rows, read, there])

    def test_what_is_missing_in_a_row_comes_in_one_request(self) -> None:
        asked, found = self.loaded([[0, 4], [2, 6]], [0, 6, 14])
        self.assertEqual(asked, [[0, 32000 + BLEND], [32000, 64000 + BLEND]])
        for first, block in zip((0, 12000, 28000), found, strict=True):
            last = first + BLOCK + BLEND - 1
            self.assertEqual(block, [first, last, -first, -last])

    def test_what_is_there_is_not_asked_for_again(self) -> None:
        asked, _found = self.loaded([[1, 1], [3, 1], [0, 5]], [])
        self.assertEqual(asked[2:], [[0, 8000 + BLEND], [16000, 24000 + BLEND], [32000, 40000 + BLEND]])

    def test_the_last_block_ends_with_the_recording(self) -> None:
        asked, found = self.loaded([[8, 4]], [37])
        self.assertEqual(asked, [[64000, 76000]])
        self.assertEqual(found, [[74000, 75999, -74000, -75999]])

    def test_an_answer_that_is_shorter_than_asked_is_no_sound_of_another_channel(self) -> None:
        _asked, found = self.loaded([[6, 3]], [24, 29, 30], there=60000)
        self.assertEqual(found, [[48000, 48000 + BLOCK + BLEND - 1, -48000, -(48000 + BLOCK + BLEND - 1)],
                                 [58000, 59999, -58000, -59999], [0, 0, 0, 0]])  # fmt: skip

    def test_a_single_block_is_loaded_when_it_is_played(self) -> None:
        self.assertEqual(self.loaded([], [10])[0], [[20000, 20000 + BLOCK + BLEND]])

    def test_who_waits_for_what_is_loaded_ahead_asks_for_it_anew(self) -> None:
        self.assertEqual(self.page.evaluate(WAITED_FOR, TRACK), [[0, 8, True], [4, 4.25, False]])

    def test_what_failed_is_asked_for_again_also_when_another_step_was_to_sound_alike(self) -> None:
        self.assertEqual(self.page.evaluate(FAILED, TRACK), ["no", 2])


class LayerTest(ModuleCase):
    def test_what_begins_between_two_samples_is_not_interpolated(self) -> None:
        for from_s, at in ((1.595, 0.01), (1.5 + 0.3 / 8000, 0.0), (1.5 + 0.5 / 8000, 0.5 / 8000), (1.2, 1.7 / 8000)):
            heard = self.page.evaluate(LAID, [TRACK, from_s, at])
            first = round(at * 8000) + 100
            for n, sample in enumerate(heard[first:7200]):
                self.assertAlmostEqual(sample - heard[first], n, delta=0.01)
            self.assertAlmostEqual(heard[first], (from_s - at) * 8000 + first, delta=0.51)


if __name__ == "__main__":
    unittest.main()
