package library

import (
	_ "image/gif" // formats that may be uploaded

	"gobbet/core/text"
	"gobbet/internal/route"
	"gobbet/internal/studio/parts"
)

func (s *Place) pictures(c *route.Call, _ route.None) (answer []PictureInfo, err error) {
	pictures, err := s.store.Library.Pictures(c, c.Site.ID)
	if err != nil {
		return answer, err
	}
	used, err := s.read.Uses(c)
	if err != nil {
		return answer, err
	}
	infos := []PictureInfo{}
	for _, p := range pictures {
		infos = append(infos, PictureInfo{p.Hash, p.Name, p.Width, p.Height, p.Bytes, parts.OrNone(used[p.Hash])})
	}
	return infos, nil
}

func (s *Place) addPicture(c *route.Call, ask NameQuery, raw []byte) (answer PictureInfo, err error) {
	p, err := s.decode.Picture(c, raw)
	if err != nil {
		return answer, err
	}
	p.Name = text.Keepable(ask.Name, 200)
	if err := s.store.Library.AddPicture(c, c.Site.ID, p); err != nil {
		return answer, err
	}
	return PictureInfo{p.Hash, p.Name, p.Width, p.Height, p.Bytes, []parts.UsedIn{}}, nil
}
