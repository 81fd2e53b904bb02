package compose

// What addresses hold.

// PageQuery is the path of a page of the site.
type PageQuery struct {
	Path string `form:"path"`
}
