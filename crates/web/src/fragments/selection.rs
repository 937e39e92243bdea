//! What is done to the frames that are chosen on the contact sheet. Each answer says what was done, and how it is taken
//! back.

use std::collections::{BTreeMap, BTreeSet};

use actix_web::{HttpResponse, delete, post, route, web};
use amber_core::controls::Value;
use amber_core::{Chosen, text::shortened};
use amber_lab::{Applied, Lab, LabOrder};
use amber_library::Mark;
use serde::Deserialize;
use serde_json::json;
use std::sync::Arc;

use super::exports::saved_as;
use super::output::{self, OutputForm};
use crate::error::{WebError, first_upper};
use crate::{Shared, blocking};

/// Tells what was done and makes the pictures anew.
fn done(lab: &Arc<Lab>, applied: &Applied) -> serde_json::Value {
    lab.thumbnails_soon(&applied.frames);
    json!({ "message": applied.message, "batch": applied.batch, "frames": applied.frames })
}

async fn answered(
    shared: &web::Data<Shared>,
    work: impl FnOnce(&Arc<Lab>) -> Result<Applied, WebError> + Send + 'static,
) -> Result<HttpResponse, WebError> {
    let answer = blocking(shared, move |lab| {
        let applied = work(lab)?;
        Ok(done(lab, &applied))
    })
    .await?;
    Ok(HttpResponse::Ok().json(answer))
}

#[derive(Deserialize)]
pub struct Laid {
    frames: Vec<i64>,
    preset: String,
    /// Per cent of the way.
    #[serde(default = "whole")]
    strength: f64,
}

/// A preset as its maker made it, in per cent: what is meant where nothing is said.
pub fn whole() -> f64 {
    100.0
}

/// A strength in per cent as a share.
pub fn share(percent: f64) -> Result<f64, WebError> {
    match percent {
        p if (0.0..=100.0).contains(&p) => Ok(p / 100.0),
        _ => Err(WebError::Unusable("the strength goes from 0 to 100 %".into())),
    }
}

#[post("/selection/preset")]
pub async fn lay(shared: web::Data<Shared>, asked: web::Json<Laid>) -> Result<HttpResponse, WebError> {
    let asked = asked.into_inner();
    let strength = share(asked.strength)?;
    answered(&shared, move |lab| Ok(lab.lay_preset(&asked.preset, &asked.frames, strength)?)).await
}

/// Parts of a development that were ticked.
#[derive(Debug, Default, Deserialize)]
#[serde(default)]
pub struct Ticked {
    controls: BTreeSet<String>,
    lists: BTreeSet<String>,
    lamps: BTreeSet<String>,
    stock: bool,
    placements: bool,
}

impl From<Ticked> for Chosen {
    fn from(ticked: Ticked) -> Self {
        let Ticked { controls, lists, lamps, stock, placements } = ticked;
        Self { controls, lists, lamps, stock, placements }
    }
}

#[derive(Deserialize)]
pub struct Copied {
    frames: Vec<i64>,
    from: i64,
    /// What belongs to the look where nothing was ticked.
    parts: Option<Ticked>,
}

#[post("/selection/copy")]
pub async fn copy_parts(shared: web::Data<Shared>, asked: web::Json<Copied>) -> Result<HttpResponse, WebError> {
    let Copied { frames, from, parts } = asked.into_inner();
    answered(&shared, move |lab| {
        let chosen = match parts {
            Some(ticked) => ticked.into(),
            None => Chosen::look_of(&lab.library.frame(from)?.summary.development),
        };
        Ok(lab.copy_development(from, &chosen, &frames)?)
    })
    .await
}

#[derive(Deserialize)]
pub struct Frames {
    frames: Vec<i64>,
}

#[post("/selection/stock")]
pub async fn back_to_stock(shared: web::Data<Shared>, asked: web::Json<Frames>) -> Result<HttpResponse, WebError> {
    answered(&shared, move |lab| Ok(lab.back_to_stock(&asked.frames)?)).await
}

#[derive(Deserialize)]
pub struct Set {
    /// What is done, in the history.
    #[serde(default = "metered")]
    label: String,
    /// Values of each frame by control.
    values: BTreeMap<i64, BTreeMap<String, Value>>,
}

fn metered() -> String {
    "Metered".into()
}

/// Takes what metering proposed, or what was typed for several frames.
#[post("/selection/values")]
pub async fn set_values(shared: web::Data<Shared>, asked: web::Json<Set>) -> Result<HttpResponse, WebError> {
    let Set { label, values } = asked.into_inner();
    let label: String = label.chars().take(60).collect();
    answered(&shared, move |lab| Ok(lab.set_on_each(&label, values)?)).await
}

#[derive(Deserialize)]
pub struct Batch {
    batch: i64,
}

#[post("/selection/undo")]
pub async fn undo(shared: web::Data<Shared>, asked: web::Json<Batch>) -> Result<HttpResponse, WebError> {
    answered(&shared, move |lab| Ok(lab.undo_together(asked.batch)?)).await
}

#[derive(Deserialize)]
pub struct Marked {
    /// A mark for each frame by its number.
    marks: BTreeMap<i64, String>,
}

/// Marks frames; answers with what each was marked before, to be sent again for undo.
#[post("/selection/marks")]
pub async fn mark(shared: web::Data<Shared>, asked: web::Json<Marked>) -> Result<HttpResponse, WebError> {
    let wrong = asked.marks.values().find(|id| Mark::named(id).id() != id.as_str());
    if let Some(wrong) = wrong {
        return Err(WebError::Unusable(format!("there is no mark '{}'", shortened(wrong))));
    }
    let marks: Vec<(i64, Mark)> = asked.marks.iter().map(|(id, mark)| (*id, Mark::named(mark))).collect();
    let before = blocking(&shared, move |lab| Ok(lab.library.marked(marks)?)).await?;
    let before: BTreeMap<i64, &str> = before.into_iter().map(|(id, mark)| (id, mark.id())).collect();
    Ok(HttpResponse::Ok().json(json!({ "before": before })))
}

#[derive(Deserialize)]
pub struct Off {
    frames: Vec<i64>,
    off: bool,
}

#[post("/selection/off")]
pub async fn take_off(shared: web::Data<Shared>, asked: web::Json<Off>) -> Result<HttpResponse, WebError> {
    let Off { frames, off } = asked.into_inner();
    blocking(&shared, move |lab| Ok(lab.library.take_off(frames, off)?)).await?;
    Ok(HttpResponse::NoContent().finish())
}

#[derive(Deserialize)]
pub struct Moved {
    frames: Vec<i64>,
    roll: i64,
    copy: bool,
}

/// Moves or copies frames to the end of another roll; answers with the numbers that they have there.
#[post("/selection/roll")]
pub async fn to_roll(shared: web::Data<Shared>, asked: web::Json<Moved>) -> Result<HttpResponse, WebError> {
    let Moved { frames, roll, copy } = asked.into_inner();
    let there = blocking(&shared, move |lab| {
        if copy {
            return Ok(lab.library.copy_frames(frames, roll)?);
        }
        lab.library.move_frames(frames.clone(), roll)?;
        Ok(frames)
    })
    .await?;
    Ok(HttpResponse::Ok().json(json!({ "frames": there })))
}

#[derive(Deserialize)]
pub struct Pattern {
    frames: Vec<i64>,
    pattern: String,
}

/// Renames by a pattern; answers with the names before, to be sent back for undo.
#[post("/selection/name")]
pub async fn rename(shared: web::Data<Shared>, asked: web::Json<Pattern>) -> Result<HttpResponse, WebError> {
    let before = blocking(&shared, move |lab| Ok(lab.rename_by(&asked.frames, &asked.pattern)?)).await?;
    let before: BTreeMap<i64, String> = before.into_iter().collect();
    Ok(HttpResponse::Ok().json(json!({ "before": before })))
}

#[derive(Deserialize)]
pub struct Names {
    names: BTreeMap<i64, String>,
}

#[post("/selection/names")]
pub async fn give_names(shared: web::Data<Shared>, asked: web::Json<Names>) -> Result<HttpResponse, WebError> {
    blocking(&shared, move |lab| Ok(lab.library.rename_frames(asked.into_inner().names.into_iter().collect())?))
        .await?;
    Ok(HttpResponse::NoContent().finish())
}

#[derive(Deserialize)]
pub struct Exported {
    frames: Vec<i64>,
    pattern: String,
    /// A lab order by its name; then all but the folder is the order's.
    #[serde(default)]
    order: String,
    /// Laid on each, by its id.
    #[serde(default)]
    preset: String,
    /// A format to which each is cut.
    #[serde(default)]
    crop: String,
    #[serde(flatten)]
    form: OutputForm,
}

impl Exported {
    /// The order that was asked for: one that is kept, or what was filled in.
    fn order(&self, lab: &Lab) -> Result<LabOrder, WebError> {
        if !self.order.is_empty() {
            return Ok(LabOrder::from_json(&lab.library.order(&self.order)?)?);
        }
        let presets = match self.preset.as_str() {
            "" => Vec::new(),
            id => vec![lab.library.preset(id)?.0],
        };
        let crop = (!self.crop.is_empty()).then(|| self.crop.clone());
        let order = LabOrder {
            pattern: self.pattern.clone(),
            presets,
            crop,
            output: self.form.output()?,
            ..LabOrder::default()
        };
        order.check()?;
        Ok(order)
    }
}

/// Puts frames in the queue of exports, named by a pattern, or by an order.
#[post("/selection/exports")]
pub async fn export(shared: web::Data<Shared>, asked: web::Json<Exported>) -> Result<HttpResponse, WebError> {
    let asked = asked.into_inner();
    let folder = asked.form.folder(&shared.settings.folders)?;
    let ids = blocking(&shared, move |lab| {
        let order = asked.order(lab)?;
        if asked.order.is_empty() {
            output::remember(lab, &order.output)?;
        }
        Ok(lab.run_order(&order, &asked.frames, folder)?)
    })
    .await?;
    Ok(HttpResponse::Ok().json(json!({ "frames": ids.len(), "batch": ids.first() })))
}

/// Names that frames would get by a pattern: the first few.
#[post("/selection/exports/names")]
pub async fn names_of_exports(shared: web::Data<Shared>, asked: web::Json<Exported>) -> Result<HttpResponse, WebError> {
    const FEW: usize = 3;
    let asked = asked.into_inner();
    let few: Vec<i64> = asked.frames.iter().copied().take(FEW).collect();
    let names = move |lab: &Arc<Lab>| -> Result<Vec<String>, WebError> {
        let order = asked.order(lab)?;
        let ending = order.output.encoding.ending();
        let named = lab.names_of_order(&order, &few)?;
        Ok(named.into_iter().map(|name| format!("{name}.{ending}")).collect())
    };
    // what is half written is no mistake: it is told what is missing
    let told = |names: Result<Vec<String>, WebError>| match names {
        Ok(names) => json!({ "names": names }),
        Err(why) => json!({ "names": [], "why": first_upper(&why.to_string()) }),
    };
    let answer = blocking(&shared, move |lab| Ok(told(names(lab)))).await?;
    Ok(HttpResponse::Ok().json(answer))
}

#[derive(Deserialize)]
pub struct KeptOrder {
    called: String,
    #[serde(flatten)]
    asked: Exported,
}

/// Keeps what is filled in as a lab order; one of that name is replaced.
#[post("/orders")]
pub async fn keep_order(shared: web::Data<Shared>, asked: web::Json<KeptOrder>) -> Result<HttpResponse, WebError> {
    let KeptOrder { called, asked } = asked.into_inner();
    let name = called.trim().to_owned();
    let kept = name.clone();
    blocking(&shared, move |lab| {
        let order = LabOrder { name: name.clone(), ..asked.order(lab)? };
        Ok(lab.library.keep_order(&name, &order.to_json())?)
    })
    .await?;
    Ok(HttpResponse::Created().json(json!({ "name": kept })))
}

/// A lab order as its file.
#[route("/orders/{name}/file", method = "GET", method = "HEAD")]
pub async fn order_file(shared: web::Data<Shared>, name: web::Path<String>) -> Result<HttpResponse, WebError> {
    let name = name.into_inner();
    let file = format!("{}.json", amber_lab::safe_name(&name)?);
    let text = blocking(&shared, move |lab| Ok(lab.library.order(&name)?)).await?;
    Ok(HttpResponse::Ok().content_type("application/json").insert_header(saved_as(&file)).body(text))
}

/// Deletes a lab order.
#[delete("/orders/{name}")]
pub async fn remove_order(shared: web::Data<Shared>, name: web::Path<String>) -> Result<HttpResponse, WebError> {
    let name = name.into_inner();
    blocking(&shared, move |lab| Ok(lab.library.remove_order(&name)?)).await?;
    Ok(HttpResponse::NoContent().finish())
}
