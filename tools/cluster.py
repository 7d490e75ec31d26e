"""python -m tools.cluster [seconds] [seed]: a Galera cluster of three nodes and two applications on this machine, under load.

While people save, one node and one application are killed and started again. At the end: was any acknowledged save lost
or doubled, did every record hold on every node, how many writes collided between nodes, how long did nobody get an answer.
`./run cluster` unpacks what this needs. Everything listens on loopback and is removed at the end.
"""

import os
import random
import shutil
import subprocess
import sys
import tempfile
import threading
import time
from pathlib import Path

import pymysql

from goodbalance.launch.database_server import free_port
from tools.hands import PASSWORD, Application, Hand, Ledger, made_ready

PARTS = Path(".venv/cluster/usr").absolute()  # ./run unpacks them there
PROVIDER = PARTS / "lib/galera/libgalera_smm.so"
USER, DATABASE = "goodbalance", "goodbalance"
JOIN_WITHIN_S = 60.0
NOTHING_YET = "00000000-0000-0000-0000-000000000000:-1"
NOBODY = 65534  # as root everything is run as nobody: the transfer between nodes gives root up too
AS_USER = ["--user=nobody"] if os.geteuid() == 0 else []


class Node:
    """One MariaDB of the cluster, over a folder of its own."""

    def __init__(self, folder: Path, number: int) -> None:
        self.folder, self.number = folder / f"node-{number}", number
        self.data, self.socket, self.log = self.folder / "data", self.folder / "socket", self.folder / "log.err"
        self.port, self.group_port, self.steps_port, self.copy_port = (free_port() for _ in range(4))
        self.process: subprocess.Popen[bytes] | None = None

    @property
    def url(self) -> str:
        return f"mysql+pymysql://{USER}:{PASSWORD.replace(' ', '%20')}@127.0.0.1:{self.port}/{DATABASE}"

    def options(self) -> list[str]:
        return [
            "mariadbd", "--no-defaults", f"--datadir={self.data}", f"--socket={self.socket}", f"--port={self.port}",
            "--bind-address=127.0.0.1", f"--log-error={self.log}", f"--pid-file={self.folder / 'pid'}", "--skip-name-resolve",
            "--character-set-server=utf8mb4", *AS_USER, "--binlog-format=ROW",
            "--default-storage-engine=InnoDB", "--innodb-autoinc-lock-mode=2", "--innodb-flush-log-at-trx-commit=1",
        ]  # fmt: skip

    def start(self, others: list["Node"], position: str = "", first: bool = False) -> None:
        """Join the others, or begin the cluster; wait until it takes part. position: of what the cluster has written."""
        mates = ",".join(f"127.0.0.1:{node.group_port}" for node in others)
        joining = [
            "--wsrep-on=ON", f"--wsrep-provider={PROVIDER}", "--wsrep-cluster-name=goodbalance", f"--wsrep-node-name=node-{self.number}",
            f"--wsrep-cluster-address=gcomm://{'' if first else mates}", f"--wsrep-node-address=127.0.0.1:{self.group_port}",
            f"--wsrep-provider-options=gmcast.listen_addr=tcp://127.0.0.1:{self.group_port};ist.recv_addr=127.0.0.1:{self.steps_port};"
            "gcache.size=64M;evs.keepalive_period=PT0.5S;evs.suspect_timeout=PT2S;evs.inactive_timeout=PT5S",
            "--wsrep-sst-method=rsync", f"--wsrep-sst-receive-address=127.0.0.1:{self.copy_port}", f"--wsrep-start-position={position or self.position()}", *(["--wsrep-new-cluster"] if first else []),
        ]  # fmt: skip
        with self.log.open("a") as said:
            found = {**os.environ, "PATH": f"{PARTS / 'bin'}:{os.environ['PATH']}:/usr/sbin:/sbin"}
            self.process = subprocess.Popen([*self.options(), *joining], stdout=said, stderr=said, start_new_session=True, env=found)
        until = time.monotonic() + JOIN_WITHIN_S
        while time.monotonic() < until:
            if self.process.poll() is not None:
                raise RuntimeError(f"node {self.number} ended: {self.log.read_text(errors='replace')[-2000:]}")
            if self.status("wsrep_local_state_comment") == "Synced":
                return
            time.sleep(0.1)
        raise RuntimeError(f"node {self.number} did not join: {self.log.read_text(errors='replace')[-2000:]}")

    def position(self) -> str:
        """Where this node stands in what the cluster has written, as its own tables say: after a kill only they know."""
        told = self.folder / "recovery.err"
        told.unlink(missing_ok=True)
        found = subprocess.run(
            [*self.options(), "--wsrep-on=ON", f"--wsrep-provider={PROVIDER}", "--wsrep-cluster-address=gcomm://", "--wsrep-recover", f"--log-error={told}"],
            stdout=subprocess.DEVNULL, stderr=subprocess.DEVNULL, timeout=60
        )
        said = [line for line in told.read_text().splitlines() if "Recovered position" in line]
        if found.returncode != 0 or not said:
            raise RuntimeError(f"node {self.number} cannot say where it stands: {told.read_text()[-500:]}")
        return said[-1].split("Recovered position")[1].strip(" :").split(",")[0]

    def status(self, name: str) -> str:
        """One of the node's figures; empty while it does not answer."""
        try:
            with self.asked() as cursor:
                cursor.execute("SHOW STATUS LIKE %s", (name,))
                row = cursor.fetchone()
        except pymysql.err.MySQLError:
            return ""
        return "" if row is None else row[1]

    def asked(self) -> pymysql.cursors.Cursor:
        return pymysql.connect(host="127.0.0.1", port=self.port, user=USER, password=PASSWORD, database=DATABASE).cursor()

    def kill(self) -> None:
        assert self.process is not None
        self.process.kill()
        self.process.wait()

    def stop(self) -> None:
        if self.process is not None and self.process.poll() is None:
            self.process.terminate()
            self.process.wait(60)


def nodes(folder: Path) -> list[Node]:
    """Three nodes, joined, with an empty database."""
    made = [Node(folder, number) for number in (1, 2, 3)]
    first = made[0]
    first.folder.mkdir()
    _hand_over(folder)
    command = ["mariadb-install-db", "--no-defaults", f"--datadir={first.data}", "--auth-root-authentication-method=normal", "--skip-test-db"]
    subprocess.run([*command, *AS_USER], check=True, capture_output=True)
    alone = subprocess.Popen([*first.options(), "--wsrep-on=OFF"], start_new_session=True)
    root = None
    while root is None:
        try:
            root = pymysql.connect(unix_socket=str(first.socket), user="root")
        except pymysql.err.OperationalError:
            time.sleep(0.1)
    with root, root.cursor() as cursor:
        cursor.execute(f"CREATE DATABASE {DATABASE} CHARACTER SET utf8mb4 COLLATE utf8mb4_bin")
        cursor.execute(f"CREATE USER {USER}@'127.0.0.1' IDENTIFIED BY %s", (PASSWORD,))
        cursor.execute(f"GRANT ALL ON {DATABASE}.* TO {USER}@'127.0.0.1'")
    alone.terminate()
    alone.wait(60)
    first.start([], NOTHING_YET, first=True)
    for node in made[1:]:  # the first hands them all it has
        node.data.mkdir(parents=True)
        _hand_over(node.folder)
        node.start(made, NOTHING_YET)
    return made


def _hand_over(folder: Path) -> None:
    """Give a folder to the user that the nodes run as."""
    if os.geteuid() == 0:
        for path in (folder, *folder.rglob("*")):
            os.chown(path, NOBODY, NOBODY)


def main(seconds: float, seed: int, hands: int = 16) -> int:
    """Returns 1 where something acknowledged was lost or doubled, or a record does not hold."""
    place = Path(tempfile.mkdtemp(prefix="goodbalance-cluster-"))
    place.chmod(0o755)
    everything: list[Node | Application] = []
    try:
        cluster = nodes(place)
        everything += cluster
        print("three nodes joined", flush=True)
        urls = [node.url for node in cluster]
        applications = [
            Application(place / f"application-{number}", database=" ".join(urls[number:] + urls[:number])) for number in (0, 1)
        ]
        everything += applications
        begin_together(applications)
        print("two applications ready, the schema made once", flush=True)
        ledger, dice = Ledger(), random.Random(seed)
        stations = made_ready(applications[0], 4)
        people = [Hand(applications, stations, ledger, seed + number) for number in range(hands)]
        for hand in people:
            hand.start()
        phases(cluster, applications, seconds, dice)
        for hand in people:
            hand.ending.set()
        for hand in people:
            hand.join(60.0)
        wrong = told(cluster, ledger)
    finally:
        for each in reversed(everything):
            each.stop()
        shutil.rmtree(place, ignore_errors=True)
    return 1 if wrong else 0


def begin_together(applications: list[Application]) -> None:
    """Both at once, on nodes of their own and an empty schema."""
    starting = [threading.Thread(target=application.start) for application in applications]
    for thread in starting:
        thread.start()
    for thread in starting:
        thread.join()
    assert all(application.is_ready() for application in applications), "an application did not start"


def phases(cluster: list[Node], applications: list[Application], seconds: float, dice: random.Random) -> None:
    """Quiet, a node killed, back, an application killed, back."""
    part_s = seconds / 5.0
    time.sleep(part_s)
    victim = dice.choice(cluster[:2])  # one that an application prefers
    victim.kill()
    print(f"node {victim.number} killed", flush=True)
    time.sleep(part_s)
    victim.start(cluster)
    print(f"node {victim.number} is back and has caught up", flush=True)
    time.sleep(part_s)
    lost = dice.choice(applications)
    lost.kill()
    print(f"application {applications.index(lost) + 1} killed", flush=True)
    time.sleep(part_s)
    lost.start()
    print(f"application {applications.index(lost) + 1} is back", flush=True)
    time.sleep(part_s)


def told(cluster: list[Node], ledger: Ledger) -> bool:
    """Print what came of it; whether anything is wrong."""
    wrong = False
    for node in cluster:
        found = ledger.check(node.url)
        wrong = wrong or any(found[name] for name in ("lost", "doubled", "records that do not hold"))
        print(f"node {node.number}: " + ", ".join(f"{count} {name}" for name, count in found.items()))
    collided = sum(int(node.status(name) or 0) for node in cluster for name in ("wsrep_local_cert_failures", "wsrep_local_bf_aborts"))
    print(f"writes that collided between nodes: {collided} (since each node last started), all of them retried")
    print(f"answers: {dict(ledger.answers)}")
    print(f"longest time in which nobody had a save acknowledged: {ledger.longest_silence_s():.1f} s", flush=True)
    return wrong or not ledger.texts


if __name__ == "__main__":
    given = sys.argv[1:3]
    sys.exit(main(float(given[0]) if given else 60.0, int(given[1]) if len(given) > 1 else 1))
