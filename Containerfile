# Glass Thread in a container: podman build -t glass-thread .
# Start it with: podman run --read-only --tmpfs /tmp -v songs:/data -p 4380:4380 glass-thread
FROM docker.io/library/node:20-bookworm-slim AS page
WORKDIR /build/web
COPY web/package.json web/package-lock.json ./
RUN npm ci --no-fund --no-audit
COPY web ./
RUN ./node_modules/.bin/vite build --logLevel warn

FROM docker.io/library/python:3.11-slim-bookworm
WORKDIR /build
COPY pyproject.toml requirements.lock README.md LICENSE ./
COPY src src
COPY --from=page /build/src/glass_thread/web src/glass_thread/web
RUN pip install --no-cache-dir --constraint requirements.lock . && rm -rf /build/*

# The engine is compiled at the first start and kept in the volume, the only place that is written to.
ENV NUMBA_CACHE_DIR=/data/engine HOME=/tmp
RUN mkdir /data && chown 10001:10001 /data
WORKDIR /data
USER 10001:10001
VOLUME /data
EXPOSE 4380
ENTRYPOINT ["glass-thread"]
CMD ["serve", "--host", "0.0.0.0", "--data", "/data"]
