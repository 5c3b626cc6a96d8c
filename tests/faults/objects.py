"""A server of objects on this machine, of the S3 kind, for files to be kept in."""

import json
import subprocess
import urllib.error
import urllib.request

import boto3

from ops.steps import PYTHON, ROOT
from tests.faults.house import any_port, within

ACCESS = {"access_key": "north", "secret_key": "pace"}


class Objects:
    """Runs until the test case is over, with an empty bucket ``plans``; ``address`` is where it
    listens.
    """

    def __init__(self, case, address="127.0.0.1"):
        self.at = f"http://{address}:{any_port(address)}"
        port = self.at.rsplit(":", 1)[1]
        self._words = [str(PYTHON), "-m", "moto.server", "-H", address, "-p", port]
        self.client = boto3.client(
            "s3",
            endpoint_url=self.at,
            region_name="us-east-1",
            aws_access_key_id=ACCESS["access_key"],
            aws_secret_access_key=ACCESS["secret_key"],
        )
        self.start()
        case.addClassCleanup(self.stop)

    def start(self):
        """Begin, with nothing kept."""
        self.process = subprocess.Popen(
            self._words, cwd=ROOT, stdout=subprocess.DEVNULL, stderr=subprocess.DEVNULL
        )
        within(60, self._answers)
        self.client.create_bucket(Bucket="plans")

    def _answers(self):
        try:
            urllib.request.urlopen(self.at, timeout=2).close()
        except urllib.error.HTTPError:
            return True
        except OSError:
            return False
        return True

    def stop(self):
        self.process.kill()
        self.process.wait()

    def environment(self):
        """What tells the service to keep its files there."""
        options = {"bucket_name": "plans", "endpoint_url": self.at, **ACCESS}
        return {
            "NORTHPACE_STORAGE": "storages.backends.s3.S3Storage",
            "NORTHPACE_STORAGE_OPTIONS": json.dumps(options),
        }

    def keys(self):
        """Keys of what is kept."""
        return [one["Key"] for one in self.client.list_objects_v2(Bucket="plans")["Contents"]]
