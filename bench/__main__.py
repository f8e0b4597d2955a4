"""``python -m bench``: every benchmark, each as a ratio to a floor measured in the same run."""

from bench import echo_to_distance, log_into_store

for benchmark in (echo_to_distance, log_into_store):
    print(benchmark.run(), flush=True)
