//! A PostgreSQL server of one test, in a temporary folder, stopped with it.

use std::fs;
use std::io::Write;
use std::net::TcpListener;
use std::os::unix::process::CommandExt;
use std::path::{Path, PathBuf};
use std::process::{Child, Command, Stdio};
use std::time::{Duration, Instant};

/// The password of `tide`, who owns everything.
pub(crate) const PASSWORD: &str = "sesame";

/// A running server.
pub(crate) struct Server {
    folder: tempfile::TempDir,
    programs: PathBuf,
    process: Child,
    pub(crate) port: u16,
}

impl Server {
    /// Starts one; nothing where PostgreSQL is not installed.
    pub(crate) fn start() -> Option<Self> {
        let programs = programs()?;
        let folder = tempfile::tempdir().expect("a folder");
        let user = owner();
        let path = folder.path().to_owned();
        let own = |path: &Path| {
            if let Some((user, group)) = user {
                std::os::unix::fs::chown(path, Some(user), Some(group)).expect("given to the server's user");
            }
        };
        own(&path);
        fs::write(path.join("password"), PASSWORD).expect("written");
        own(&path.join("password"));
        let run = |program: &str, arguments: &[&str]| {
            let mut command = Command::new(programs.join(program));
            command.args(arguments).current_dir(&path).env("HOME", &path).env("LC_ALL", "C.UTF-8");
            if let Some((user, group)) = user {
                command.uid(user).gid(group);
            }
            command
        };
        let made = run(
            "initdb",
            &["-D", "data", "-U", "tide", "-A", "scram-sha-256", "--pwfile=password", "-E", "UTF8", "--no-sync"],
        )
        .output()
        .expect("initdb starts");
        assert!(made.status.success(), "{}", String::from_utf8_lossy(&made.stderr));
        certificates(&path);
        for file in ["server.key", "server.crt"] {
            own(&path.join("data").join(file));
        }
        let port = TcpListener::bind("127.0.0.1:0").and_then(|listener| listener.local_addr()).expect("a port").port();
        let port_text = port.to_string();
        let process = run(
            "postgres",
            &[
                "-D",
                "data",
                "-p",
                &port_text,
                "-k",
                &path.display().to_string(),
                "-c",
                "fsync=off",
                "-c",
                "ssl=on",
                "-c",
                "listen_addresses=localhost",
            ],
        )
        .stdout(Stdio::null())
        .stderr(fs::File::create(path.join("log")).expect("a log"))
        .spawn()
        .expect("postgres starts");
        let server = Self { folder, programs, process, port };
        let start = Instant::now();
        while !server.is_up() {
            assert!(start.elapsed() < Duration::from_secs(60), "{}", server.log());
            std::thread::sleep(Duration::from_millis(100));
        }
        Some(server)
    }

    fn is_up(&self) -> bool {
        let port = self.port.to_string();
        let asked = Command::new(self.programs.join("pg_isready")).args(["-h", "localhost", "-p", &port]).output();
        asked.is_ok_and(|answer| answer.status.success())
    }

    pub(crate) fn log(&self) -> String {
        fs::read_to_string(self.folder.path().join("log")).unwrap_or_default()
    }

    /// The folder of the socket and of the certificates.
    pub(crate) fn folder(&self) -> &Path {
        self.folder.path()
    }

    /// The number of the server's process.
    pub(crate) fn process(&self) -> String {
        self.process.id().to_string()
    }

    /// The address of a database, for a user.
    pub(crate) fn address(&self, user: &str, database: &str) -> String {
        format!("postgresql://{user}@localhost:{}/{database}", self.port)
    }

    /// Runs statements in a database; gives what they answer, a row each, columns with `|` between them.
    pub(crate) fn sql(&self, database: &str, statements: &str) -> Vec<String> {
        let mut child = Command::new(self.programs.join("psql"))
            .args([
                "-X",
                "-q",
                "-A",
                "-t",
                "-v",
                "ON_ERROR_STOP=1",
                "-h",
                "localhost",
                "-p",
                &self.port.to_string(),
                "-U",
                "tide",
                database,
            ])
            .env("PGPASSWORD", PASSWORD)
            .stdin(Stdio::piped())
            .stdout(Stdio::piped())
            .stderr(Stdio::piped())
            .spawn()
            .expect("psql starts");
        child.stdin.take().expect("an input").write_all(statements.as_bytes()).expect("written");
        let answer = child.wait_with_output().expect("psql ends");
        assert!(answer.status.success(), "{}", String::from_utf8_lossy(&answer.stderr));
        String::from_utf8_lossy(&answer.stdout).lines().map(str::to_owned).collect()
    }
}

impl Drop for Server {
    fn drop(&mut self) {
        // An interrupt makes it stop at once and in order.
        let _ = Command::new("kill").args(["-INT", &self.process()]).status();
        let _ = self.process.wait();
    }
}

/// The newest programs of PostgreSQL on this machine.
fn programs() -> Option<PathBuf> {
    let versions = fs::read_dir("/usr/lib/postgresql").ok()?;
    let mut folders: Vec<PathBuf> = versions.flatten().map(|entry| entry.path().join("bin")).collect();
    folders.sort();
    folders.into_iter().rfind(|folder| folder.join("postgres").is_file() && folder.join("psql").is_file())
}

/// Who the server runs as: it refuses to be root.
fn owner() -> Option<(u32, u32)> {
    let number = |what: &str, user: &[&str]| -> Option<u32> {
        let answer = Command::new("id").arg(what).args(user).output().ok()?;
        String::from_utf8_lossy(&answer.stdout).trim().parse().ok()
    };
    if number("-u", &[])? != 0 {
        return None;
    }
    number("-u", &["postgres"]).zip(number("-g", &["postgres"])).or(Some((65534, 65534)))
}

/// A root, and a certificate of `localhost` that it has signed.
fn certificates(path: &Path) {
    let run = |arguments: &[&str]| {
        let made = Command::new("openssl").args(arguments).current_dir(path).output().expect("openssl starts");
        assert!(made.status.success(), "{}", String::from_utf8_lossy(&made.stderr));
    };
    run(&[
        "req",
        "-x509",
        "-newkey",
        "rsa:2048",
        "-nodes",
        "-subj",
        "/CN=Tidewatch root",
        "-days",
        "30",
        "-keyout",
        "root.key",
        "-out",
        "root.crt",
    ]);
    run(&[
        "req",
        "-newkey",
        "rsa:2048",
        "-nodes",
        "-subj",
        "/CN=localhost",
        "-keyout",
        "data/server.key",
        "-out",
        "server.csr",
    ]);
    fs::write(path.join("names"), "subjectAltName=DNS:localhost\nbasicConstraints=CA:FALSE\n").expect("written");
    run(&[
        "x509",
        "-req",
        "-in",
        "server.csr",
        "-CA",
        "root.crt",
        "-CAkey",
        "root.key",
        "-CAcreateserial",
        "-days",
        "30",
        "-extfile",
        "names",
        "-out",
        "data/server.crt",
    ]);
    use std::os::unix::fs::PermissionsExt;
    fs::set_permissions(path.join("data/server.key"), fs::Permissions::from_mode(0o600)).expect("private");
}
