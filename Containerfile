# Isostasis in a container: its pages on port 8765, everything that it keeps under /data.
#   build:  docker build -f Containerfile -t isostasis .
#   run:    docker run --rm -p 127.0.0.1:8765:8765 -v isostasis:/data isostasis
# The container answers its whole network, so a browser pairs first: the code is on the container's log.
FROM python:3.11-slim AS made
COPY . /source
RUN python -m pip wheel --no-cache-dir --no-deps --wheel-dir /wheels /source

FROM python:3.11-slim
COPY --from=made /wheels /wheels
COPY requirements.lock /wheels/
RUN python -m pip install --no-cache-dir --constraint /wheels/requirements.lock /wheels/*.whl \
    && rm -r /wheels && useradd --create-home --uid 1000 caster && mkdir /data && chown caster /data
USER caster
ENV ISOSTASIS_DB=/data/isostasis.db
VOLUME /data
EXPOSE 8765
HEALTHCHECK CMD ["isostasis", "doctor"]
CMD ["isostasis", "serve", "--lan", "--no-open"]
