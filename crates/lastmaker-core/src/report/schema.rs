//! The answers as JSON Schema describes them.

use schemars::JsonSchema;
use schemars::generate::SchemaSettings;
use serde_json::Value;

use super::{
    BridgeReport, CheckReport, CompareReport, Document, ExplainReport, ForgetReport, FormatsReport,
    HistoryReport, PlanReport, RestoreReport, RewriteReport, SheetReport, SurveyReport,
    TraceReport,
};

/// The schema of each command's document, by the name of the command.
pub fn schemas() -> Vec<(&'static str, Value)> {
    vec![
        ("survey", of::<SurveyReport>()),
        ("compare", of::<CompareReport>()),
        ("trace", of::<TraceReport>()),
        ("preview", of::<PlanReport>()),
        ("rewrite", of::<RewriteReport>()),
        ("check", of::<CheckReport>()),
        ("bridge", of::<BridgeReport>()),
        ("restore", of::<RestoreReport>()),
        ("history", of::<HistoryReport>()),
        ("history-forget", of::<ForgetReport>()),
        ("explain", of::<ExplainReport>()),
        ("sheet", of::<SheetReport>()),
        ("formats", of::<FormatsReport>()),
    ]
}

fn of<A: JsonSchema + 'static>() -> Value {
    let settings = SchemaSettings::draft2020_12().for_serialize();
    let schema = settings
        .into_generator()
        .into_root_schema_for::<Document<'static, A>>();
    schema.to_value()
}
