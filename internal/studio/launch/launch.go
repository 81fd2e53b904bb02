package launch

import (
	"net/http"

	"gobbet/core/fault"
	"gobbet/core/settle"
	"gobbet/internal/problem"
	"gobbet/internal/route"
	"gobbet/internal/studio/parts"
)

func (s *Place) launch(c *route.Call, req LaunchRequest) (answer parts.PieceInfo, err error) {
	site := c.Site
	row, draft, err := s.read.Draft(c, c.Param("piece"))
	if err != nil {
		return answer, err
	}
	if stops := stopping(settle.Notes(draft, s.read.Surroundings(c))); stops != nil {
		p := problem.New(http.StatusUnprocessableEntity, "notes-to-settle", "Some notes have to be settled before this can go live.")
		p.Faults = stops
		return answer, p
	}
	if err := s.pageIsFree(c, site, row.ID, draft); err != nil {
		return answer, err
	}
	if err := s.store.Pieces.Launch(c, s.read.Act(c), row.ID, int(req.Version), draft.Drawings(&site.Kit, nil)); err != nil {
		return answer, err
	}
	return s.read.Info(c, row.ID)
}

func stopping(notes []settle.Note) (faults fault.Faults) {
	for _, n := range notes {
		if n.Severity == settle.Stop {
			faults.Add(n.At, "%s %s", n.Say, n.Mend)
		}
	}
	return faults
}
