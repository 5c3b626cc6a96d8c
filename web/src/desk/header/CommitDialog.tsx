import { api, data, type Plan } from "../../api/client";
import { CommitSheet } from "../../commit/CommitSheet";

/** The review before a plan becomes jobs. */
export function CommitDialog({ plan, onClose }: { plan: Plan; onClose: () => void }) {
  const version = plan.latest;
  const report = version.report;
  if (!report) return null;
  const path = { path: { id: version.id } };
  return (
    <CommitSheet
      title={`Review: ${plan.part.name}, plan ${plan.number} version ${version.number}`}
      figures={{
        seconds: report.time_s.total,
        grams: report.filament.mass_g,
        mm: report.filament.length_mm,
        cost: report.filament.cost,
        more: `${report.layers.count} layers`,
      }}
      subject={`version ${version.id}`}
      nameOf={(template) =>
        data(api.POST("/api/versions/{id}/name", { params: path, body: { template } }))
      }
      reviewOf={(copies) =>
        data(api.GET("/api/versions/{id}/review", { params: { ...path, query: { copies } } }))
      }
      commit={(press) =>
        data(api.POST("/api/jobs", { body: { version: version.id, ...press } }))
      }
      onClose={onClose}
    />
  );
}
