//! The connection: encrypted where the server can, with a password from where people keep it.

use super::address::Protection;
use super::password::{Found, from_file};
use super::{Address, refused};
use crate::{Request, Secret, StoreError};
use postgres::config::SslMode;
use postgres::{Client, Config, NoTls};
use rustls::client::danger::{HandshakeSignatureValid, ServerCertVerified, ServerCertVerifier};
use rustls::crypto::{CryptoProvider, ring, verify_tls12_signature, verify_tls13_signature};
use rustls::pki_types::pem::PemObject;
use rustls::pki_types::{CertificateDer, ServerName, UnixTime};
use rustls::{ClientConfig, DigitallySignedStruct, RootCertStore, SignatureScheme};
use std::path::Path;
use std::sync::Arc;
use std::time::Duration;
use tokio_postgres_rustls::MakeRustlsConnect;

/// How long a server may take to answer a call.
const ANSWER: Duration = Duration::from_secs(10);

/// Connects.
///
/// # Errors
/// If there is no way in.
pub(super) fn connect(address: &Address, password: Option<Secret>, request: &Request) -> Result<Client, StoreError> {
    let mut config = Config::new();
    config
        .host(&address.host)
        .port(address.port)
        .dbname(&address.database)
        .user(&address.user)
        .application_name("bathygram")
        .connect_timeout(ANSWER.min(request.limit))
        .ssl_mode(match address.protection {
            Protection::None => SslMode::Disable,
            Protection::IfPossible => SslMode::Prefer,
            Protection::Encrypted | Protection::Verified => SslMode::Require,
        });
    let mut advice = String::new();
    let password = password.map(|secret| secret.reveal().to_owned()).or_else(|| std::env::var("PGPASSWORD").ok());
    let password = password.or_else(|| match from_file(address) {
        Found::Password(password) => Some(password),
        Found::Nothing => None,
        Found::Open(path) => {
            advice = format!(" ({} is not used: others can read it; `chmod 600` it)", path.display());
            None
        }
    });
    let has_password = password.is_some();
    config.password(password.unwrap_or_default());
    // A socket on the same machine is not encrypted.
    let is_socket = address.host.starts_with('/');
    let client = match address.protection {
        Protection::None => config.connect(NoTls),
        _ if is_socket => config.ssl_mode(SslMode::Disable).connect(NoTls),
        _ => config.connect(MakeRustlsConnect::new(encryption(address)?)),
    };
    client.map_err(|why| {
        // The client says this without a code.
        let is_asked = !has_password && why.as_db_error().is_some_and(|answer| answer.message().contains("password"));
        match is_asked {
            true => StoreError::Refused(format!(
                "{}: the server asks for a password; put it into a file for `--password-file FILE`, or into PGPASSWORD{advice}",
                address.shown
            )),
            false => refused(address, &why, request),
        }
    })
}

fn encryption(address: &Address) -> Result<ClientConfig, StoreError> {
    let provider = Arc::new(ring::default_provider());
    let cannot = |why: &dyn std::fmt::Display| StoreError::Refused(format!("{}: no encryption: {why}", address.shown));
    let config = ClientConfig::builder_with_provider(Arc::clone(&provider))
        .with_safe_default_protocol_versions()
        .map_err(|why| cannot(&why))?;
    if address.protection == Protection::Verified {
        return Ok(config.with_root_certificates(roots(address.roots.as_deref())?).with_no_client_auth());
    }
    let verifier = Arc::new(AnyServer { provider });
    Ok(config.dangerous().with_custom_certificate_verifier(verifier).with_no_client_auth())
}

fn roots(file: Option<&Path>) -> Result<RootCertStore, StoreError> {
    let mut roots = RootCertStore::empty();
    let certificates = match file {
        Some(path) => {
            let cannot = |why: &dyn std::fmt::Display| {
                StoreError::Named(format!("the certificates in {} cannot be read: {why}", path.display()))
            };
            let all = CertificateDer::pem_file_iter(path).map_err(|why| cannot(&why))?;
            all.collect::<Result<Vec<_>, _>>().map_err(|why| cannot(&why))?
        }
        None => rustls_native_certs::load_native_certs().certs,
    };
    roots.add_parsable_certificates(certificates);
    Ok(roots)
}

/// Takes any server: the line is encrypted, whoever is at its end. Servers in most houses have certificates that nobody signed;
/// `sslmode=verify-full` asks for more.
#[derive(Debug)]
struct AnyServer {
    provider: Arc<CryptoProvider>,
}

impl ServerCertVerifier for AnyServer {
    fn verify_server_cert(
        &self, _: &CertificateDer<'_>, _: &[CertificateDer<'_>], _: &ServerName<'_>, _: &[u8], _: UnixTime,
    ) -> Result<ServerCertVerified, rustls::Error> {
        Ok(ServerCertVerified::assertion())
    }

    fn verify_tls12_signature(
        &self, message: &[u8], certificate: &CertificateDer<'_>, signature: &DigitallySignedStruct,
    ) -> Result<HandshakeSignatureValid, rustls::Error> {
        verify_tls12_signature(message, certificate, signature, &self.provider.signature_verification_algorithms)
    }

    fn verify_tls13_signature(
        &self, message: &[u8], certificate: &CertificateDer<'_>, signature: &DigitallySignedStruct,
    ) -> Result<HandshakeSignatureValid, rustls::Error> {
        verify_tls13_signature(message, certificate, signature, &self.provider.signature_verification_algorithms)
    }

    fn supported_verify_schemes(&self) -> Vec<SignatureScheme> {
        self.provider.signature_verification_algorithms.supported_schemes()
    }
}
