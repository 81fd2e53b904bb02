package board

import (
	"gobbet/core/piece"
	"gobbet/internal/route"
	"gobbet/internal/templates"
)

// templates lists the templates in the site's style.
func (s *Place) templates(c *route.Call, _ route.None) (answer TemplateList, err error) {
	kit := c.Site.Kit
	list := []Template{}
	for _, one := range templates.All() {
		list = append(list, Template{one.ID, one.Name, string(one.Goal), one.Season, one.Tags, one.Format, one.Drawing(one.Format, &kit).WithValues(), one.Promises()})
	}
	answer = TemplateList{Templates: list, Frames: map[piece.Format]piece.Frame{}}
	for _, format := range piece.Formats {
		answer.Frames[format] = piece.UsualFrame(format)
	}
	return answer, nil
}
