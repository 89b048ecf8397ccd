"""Whether a page rests, as it knows itself."""

# Counts what the page is about: requests that are not answered yet, and the last time it asked for a frame or a timer.
REST = """(() => {
  const about = { open: 0, last: performance.now() };
  const stir = () => { about.last = performance.now(); };
  const fetched = window.fetch.bind(window);
  window.fetch = async (...given) => {
    about.open += 1;
    try { return await fetched(...given); } finally { about.open -= 1; stir(); }
  };
  const framed = window.requestAnimationFrame.bind(window);
  window.requestAnimationFrame = (paint) => { stir(); return framed((t) => { stir(); paint(t); }); };
  const timed = window.setTimeout.bind(window);
  window.setTimeout = (run, ms, ...rest) => {
    if (ms > 1000) return timed(run, ms, ...rest);
    about.open += 1;
    const id = timed(() => { if (pending.delete(id)) about.open -= 1; stir(); run(...rest); }, ms);
    pending.add(id);
    return id;
  };
  const pending = new Set();
  const cleared = window.clearTimeout.bind(window);
  window.clearTimeout = (id) => { if (pending.delete(id)) about.open -= 1; cleared(id); };
  window.rest = (still_ms, patience_ms) => new Promise((done) => {
    const end = performance.now() + patience_ms;
    const look = () => {
      const now = performance.now();
      const still = about.open <= 0 && now - about.last > still_ms;
      if (still || now > end) done(still);
      else timed(look, 15);
    };
    look();
  });
})()"""
