import * as walk from '../../../page/acts'
import * as chat from '../../../page/chat'
import * as draw from '../../../page/draw'
import * as extras from '../../../page/extras'
import * as frames from '../../../page/frames'
import * as play from '../../../page/play'
import { install, installWalk } from '../../../page/shadow'

// The renderer that visitors get, with all its parts: whatever draws a piece in
// the studio takes it from here.

install('extras', extras)
install('play', play)
install('draw', draw)
install('chat', chat)
install('frames', frames)
installWalk(walk)

export * from '../../../page/still'
