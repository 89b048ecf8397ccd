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
    asked.push([begin / 8000, Math.floor(end / 4000) / 2, ahead]);
    if (begin === 0) await new Promise(() => undefined);
    return new Float32Array(2 * (end - begin)).buffer;
  });
  const of = eval(`(${track})`);
  const source = { kind: 'tuned', at: 'a' };
  void store.prepare(of, source, 0, 8, true);
  await store.get(of, source, 8);
  await store.prepare(of, source, 4, 0.5, true);
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
BLOCK = 4000  # frames
BLEND = 64  # frames by which a block reaches into the next


class BlockStoreTest(ModuleCase):
    def loaded(self, rows: list[list[float]], read: list[int], there: int = 76000) -> tuple[list, list]:
        """What was asked for and the ends of some blocks, when the server has so many frames."""
        return self.page.evaluate(LOADED, [TRACK, rows, read, there])

    def test_what_is_missing_in_a_row_comes_in_one_request(self) -> None:
        asked, found = self.loaded([[0, 4], [2, 6]], [0, 3, 7])
        self.assertEqual(asked, [[0, 32000 + BLEND], [32000, 64000 + BLEND]])
        for first, block in zip((0, 12000, 28000), found, strict=True):
            last = first + BLOCK + BLEND - 1
            self.assertEqual(block, [first, last, -first, -last])

    def test_what_is_there_is_not_asked_for_again(self) -> None:
        asked, _found = self.loaded([[1, 1], [3, 1], [0, 5]], [])
        self.assertEqual(asked[2:], [[0, 8000 + BLEND], [16000, 24000 + BLEND], [32000, 40000 + BLEND]])

    def test_the_last_block_ends_with_the_recording(self) -> None:
        asked, found = self.loaded([[8, 4]], [18])
        self.assertEqual(asked, [[64000, 76000]])
        self.assertEqual(found, [[72000, 75999, -72000, -75999]])

    def test_an_answer_that_is_shorter_than_asked_is_no_sound_of_another_channel(self) -> None:
        _asked, found = self.loaded([[6, 3]], [12, 14, 15], there=60000)
        self.assertEqual(found, [[48000, 48000 + BLOCK + BLEND - 1, -48000, -(48000 + BLOCK + BLEND - 1)],
                                 [56000, 59999, -56000, -59999], [0, 0, 0, 0]])  # fmt: skip

    def test_a_single_block_is_loaded_when_it_is_played(self) -> None:
        self.assertEqual(self.loaded([], [5])[0], [[20000, 20000 + BLOCK + BLEND]])

    def test_who_waits_for_what_is_loaded_ahead_asks_for_it_anew(self) -> None:
        self.assertEqual(self.page.evaluate(WAITED_FOR, TRACK), [[0, 8, True], [4, 4.5, False]])

    def test_what_failed_is_asked_for_again_also_when_another_step_was_to_sound_alike(self) -> None:
        self.assertEqual(self.page.evaluate(FAILED, TRACK), ["no", 2])


if __name__ == "__main__":
    unittest.main()
