//! `amber-grain serve` and `amber-grain demo`.

use std::net::TcpListener;
use std::path::{Path, PathBuf};
use std::sync::Arc;

use amber_files::Limits;
use amber_lab::{HandOff, Lab, LabOrder};
use amber_library::Library;
use amber_web::Settings;

use crate::arguments::{Demo, Serve};
use crate::sentence;
use crate::{demo, documents, output, password};

/// Starts the application; with the demo's folders, its rolls are loaded first.
pub fn run(arguments: &Serve, demo: Option<&Demo>) -> Result<(), String> {
    let password = arguments.password_file.as_deref().map(password::read).transpose()?;
    if !arguments.address.is_loopback() && password.is_none() {
        return Err(format!(
            "on {} anybody in reach could use it: give a --password-file, or leave --address away",
            arguments.address
        ));
    }
    let place = (arguments.address, arguments.port);
    // the port first: a second start must not touch the data folder
    let listener = TcpListener::bind(place).map_err(|error| match error.kind() {
        std::io::ErrorKind::AddrInUse => format!(
            "port {} is taken: another program, or another Amber Grain, listens there. Stop it, or choose another \
                with --port",
            arguments.port
        ),
        _ => format!("it cannot listen on {}:{}: {error}", arguments.address, arguments.port),
    })?;
    let data = match demo {
        Some(_) if arguments.data == Path::new("data") => Path::new("demo-data"),
        _ => &arguments.data,
    };
    let library = Library::open(data).map_err(|e| sentence::of(&e))?;
    let limits = Limits { megapixels: arguments.max_megapixels };
    let lab = Lab::within(library, limits, arguments.threads, arguments.memory).map_err(|e| sentence::of(&e))?;
    let lab = Arc::new(lab);
    if let Some(folders) = demo {
        demo::load_once(&lab, folders)?;
    }
    let address = listener.local_addr().map_err(|e| sentence::of(&e))?;
    output::print(&format!(
        "Amber Grain is at http://{address}/ (its data is in {}; Ctrl C stops it)",
        data.display()
    ))?;
    let upload_bytes = usize::try_from(u64::from(arguments.max_upload_mib) << 20).unwrap_or(usize::MAX);
    let (hosts, folders) = (arguments.hosts.clone(), folders(&arguments.folders)?);
    let proxies = arguments.proxies.clone();
    let settings = Settings { hosts, upload_bytes, folders, proxies, password, ..Settings::default() };
    lab.resume_exports().map_err(|e| sentence::of(&e))?;
    if let (Some(from), Some(order), Some(to)) =
        (&arguments.hand_off, &arguments.hand_off_order, &arguments.hand_off_out)
    {
        let (order, from, to) = (order_named(&lab, order)?, from.clone(), to.clone());
        lab.watch(HandOff { order, from, to, limits }).map_err(|e| sentence::of(&e))?;
    }
    let served = amber_web::run(lab.clone(), listener, settings).map_err(|e| sentence::of(&e));
    lab.close();
    served
}

/// An order from a file, or one that is kept under a name.
fn order_named(lab: &Lab, named: &str) -> Result<LabOrder, String> {
    if named.ends_with(".json") {
        return documents::order(Path::new(named));
    }
    let text = lab.library.order(named).map_err(|e| sentence::of(&e))?;
    LabOrder::from_json(&text).map_err(|e| sentence::of(&e))
}

/// Folders into which exports may go, as they are named in the interface: whole paths.
fn folders(named: &[PathBuf]) -> Result<Vec<PathBuf>, String> {
    let whole = |folder: &PathBuf| match folder.canonicalize() {
        Ok(whole) if whole.is_dir() => Ok(whole),
        Ok(_) => Err(format!("--folder {} is no folder", folder.display())),
        Err(e) => Err(format!("--folder {} cannot be used: {e}", folder.display())),
    };
    named.iter().map(whole).collect()
}
