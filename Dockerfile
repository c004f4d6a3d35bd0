# Hale Rail in a container: its data in a volume, served to the workshop's network.
#
#   docker build -t hale-rail .
#   docker run --rm -it -v hale-rail:/data hale-rail passphrase --data /data
#   docker run -d --name hale-rail -p 5080:5080 -v hale-rail:/data hale-rail
FROM python:3.11-slim-bookworm AS built
WORKDIR /source
COPY requirements/base.txt requirements/base.txt
RUN python -m venv /app && /app/bin/pip install --no-cache-dir --require-hashes -r requirements/base.txt
COPY pyproject.toml README.md ./
COPY src src
RUN /app/bin/pip install --no-cache-dir --no-deps --no-build-isolation . && /app/bin/python -m compileall -q /app

FROM python:3.11-slim-bookworm
RUN useradd --create-home --uid 1000 bench && install -d -o bench -g bench -m 700 /data
COPY --from=built /app /app
ENV PATH=/app/bin:$PATH PYTHONDONTWRITEBYTECODE=1
USER bench
VOLUME ["/data"]
EXPOSE 5080
# it answers by this machine's names only, so it is asked as localhost
HEALTHCHECK --interval=30s --timeout=5s --start-period=10s --retries=3 \
  CMD ["python", "-c", "import urllib.request as u; u.urlopen('http://127.0.0.1:5080/healthz', timeout=4).read()"]
ENTRYPOINT ["hale-rail"]
CMD ["serve", "--host", "0.0.0.0", "--data", "/data"]
