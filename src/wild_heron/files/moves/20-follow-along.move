{
 "format": "wild-heron-move",
 "version": 1,
 "move": {
  "name": "Follow along",
  "line": "Goes along with something that moves, a little late.",
  "tags": [
   "lively",
   "follow"
  ],
  "frames": 120.0,
  "nodes": [
   {
    "kind": "null",
    "id": "trail",
    "name": "Trail",
    "colour": "#8fbf9f",
    "movers": [
     {
      "type": "lag",
      "targets": [
       {
        "channel": "position.x"
       },
       {
        "channel": "position.y"
       },
       {
        "channel": "position.z"
       }
      ],
      "space": "world",
      "delay": 0.25
     }
    ]
   },
   {
    "kind": "camera",
    "id": "camera",
    "name": "Camera",
    "carrier": "trail",
    "channels": [
     {
      "name": "lens.focus",
      "value": 3.6
     },
     {
      "name": "position.x",
      "value": 0.5
     },
     {
      "name": "position.y",
      "value": 0.2
     },
     {
      "name": "position.z",
      "value": 3.6
     }
    ],
    "binds": [
     {
      "type": "aim",
      "targets": [
       "subject"
      ]
     }
    ]
   }
  ],
  "camera": "camera",
  "along": "place"
 }
}
